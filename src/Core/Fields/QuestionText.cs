using System.Globalization;
using System.Text;

namespace ClearLexicon.Core.Fields;

/// <summary>Why a question cannot be read.</summary>
/// <param name="At">Where, from 0.</param>
/// <param name="Says">One sentence.</param>
public sealed record QuestionFault(int At, string Says);

/// <summary>
/// Questions as plain sentences: <c>Berth is within North Basin and Arrived is from 2024-01-01 to today</c>. Fields are called by their
/// labels or keys; a value that holds an <c>and</c>, an <c>or</c>, a comma or a quotation mark stands in quotation marks, straight ones
/// doubled inside. One question joins its conditions by <c>and</c> or by <c>or</c>, not by both.
/// </summary>
public static class QuestionText
{
    /// <summary>Longest question, in characters.</summary>
    public const int Longest = 4_000;

    private static readonly (string Words, Look How)[] Ways =
    [
        ("is one of", Look.OneOf),
        ("is within", Look.Within),
        ("is not", Look.IsNot),
        ("is empty", Look.Empty),
        ("is filled", Look.Filled),
        ("is from", Look.Between),
        ("is up to", Look.Between),
        ("is before", Look.Before),
        ("is below", Look.Before),
        ("is after", Look.After),
        ("is above", Look.After),
        ("starts with", Look.Starts),
        ("holds", Look.Holds),
        ("is", Look.Is),
    ];

    /// <summary>A way of asking in words.</summary>
    public static string Words(Look how, FieldKind kind) =>
        how switch
        {
            Look.Before => kind.Before,
            Look.After => kind.After,
            Look.Between => "is from",
            _ => Ways.First(w => w.How == how).Words,
        };

    /// <summary>One condition as a sentence.</summary>
    public static string Write(FieldCondition c, TypeFields fields)
    {
        var label = fields.FindPart(c.Field) is null ? c.Field : fields.LabelOf(c.Field);
        var start = $"{Quoted(label, always: label.Any(x => !char.IsLetterOrDigit(x) && x is not (' ' or '-' or ':' or '.' or '/')))} ";
        if (c.How == Look.Between && c.Text.Length == 0)
            return $"{start}is up to {Quoted(c.To)}";
        var way = $"{start}{Words(c.How, c.Kind)}";
        return c.How switch
        {
            Look.Empty or Look.Filled => way,
            Look.OneOf => $"{way} {string.Join(", ", c.Values.Select(v => Quoted(v)))}",
            Look.Between when c.To.Length > 0 => $"{way} {Quoted(c.Text)} to {Quoted(c.To)}",
            _ => $"{way} {Quoted(c.Text)}",
        };
    }

    /// <summary>A question as a sentence; empty when it asks for nothing.</summary>
    public static string Write(Question question, TypeFields fields) =>
        string.Join(question.Any ? " or " : " and ", question.Conditions.Select(c => Write(c, fields)));

    /// <summary>Reads a question.</summary>
    /// <param name="text">The sentence.</param>
    /// <param name="fields">Fields that may be asked; columns of tables are asked as <c>Table: Column</c>.</param>
    /// <param name="fault">Why it cannot be read; null when it can.</param>
    /// <returns>The question; as far as it could be read, when there is a fault.</returns>
    public static Question Read(string text, TypeFields fields, out QuestionFault? fault)
    {
        fault = null;
        if (text.Length > Longest)
        {
            fault = new QuestionFault(Longest, $"The question has {text.Length:N0} characters; {Longest:N0} are the most.");
            return Question.Nothing;
        }
        var reading = new Reading(text, fields);
        var question = reading.All();
        fault = reading.Fault;
        return question;
    }

    /// <summary>What could be written on at the end of a question: whole sentences, the likeliest first.</summary>
    /// <param name="text">The sentence so far.</param>
    /// <param name="fields">Fields that may be asked.</param>
    /// <param name="values">Values of a field that go on from what is typed of one.</param>
    /// <param name="most">Most of them.</param>
    public static IReadOnlyList<string> Complete(
        string text,
        TypeFields fields,
        Func<Field, string, IEnumerable<string>> values,
        int most = 12
    )
    {
        if (text.Length > Longest)
            return [];
        var reading = new Reading(text, fields);
        reading.All();
        var (name, field, way, value) = reading.Last;
        string After(int at) => text[..at] + (at > 0 && !char.IsWhiteSpace(text[at - 1]) ? " " : "");
        if (field is null)
        {
            var typed = text[name..].Trim();
            return
            [
                .. reading
                    .Names.Where(n => $" {n}".Contains($" {typed}", StringComparison.OrdinalIgnoreCase))
                    .Take(most)
                    .Select(n => $"{After(name)}{n} "),
            ];
        }
        // “is b” is a value, and the beginning of “is before”.
        var ways = field
            .Kind.Looks.Select(how => Words(how, field.Kind))
            .Where(w => w.StartsWith(text[way..].TrimStart(), StringComparison.OrdinalIgnoreCase))
            .Select(w => $"{After(way)}{w} ");
        var whole = value < 0 ? [] : values(field, text[value..].Trim().Trim('"', '“', '”')).Select(v => After(value) + Quoted(v));
        return [.. ways.Concat(whole).Take(most)];
    }

    private static string Quoted(string text, bool always = false)
    {
        var plain =
            text.Length > 0
            && text.Trim() == text
            && !text.Any(c => c is ',' or '"' or '“' or '”' || char.IsWhiteSpace(c) && c != ' ')
            && !$" {text} ".Contains(" and ", StringComparison.OrdinalIgnoreCase)
            && !$" {text} ".Contains(" or ", StringComparison.OrdinalIgnoreCase)
            && !$" {text} ".Contains(" to ", StringComparison.OrdinalIgnoreCase)
            && !text.Contains("  ", StringComparison.Ordinal);
        return plain && !always ? text : $"\"{text.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";
    }

    private sealed class Reading
    {
        private readonly string _text;
        private readonly List<(string Name, Field Field, string Key)> _names;
        private int _at;

        public QuestionFault? Fault { get; private set; }

        /// <summary>
        /// Where the last condition begins, its field, where it is said how it is asked, and the last value; -1 before that.
        /// </summary>
        public (int Name, Field? Field, int Way, int Value) Last { get; private set; }

        /// <summary>Labels of the fields, in their order.</summary>
        public IEnumerable<string> Names { get; }

        public Reading(string text, TypeFields fields)
        {
            _text = text;
            var asked = fields
                .Fields.SelectMany(f => f.Kind.HasRows ? f.Columns.Select(c => (Field: c, Key: $"{f.Key}.{c.Key}")) : [(Field: f, f.Key)])
                .Select(f => (Name: fields.LabelOf(f.Key), f.Field, f.Key))
                .ToList();
            Names = asked.Select(f => f.Name);
            // The longest first: “Berth from” is not a berth.
            _names = [.. asked.Concat(asked.Select(f => f with { Name = f.Key })).OrderByDescending(f => f.Name.Length)];
        }

        public Question All()
        {
            var conditions = new List<FieldCondition>();
            bool? any = null;
            for (Skip(); _at < _text.Length; Skip())
            {
                if (One() is not { } condition)
                    break;
                conditions.Add(condition);
                Skip();
                if (_at == _text.Length)
                    break;
                var here = _at;
                if (Word("and") is false && Word("or") is false)
                {
                    Fail(here, $"“{Rest(here)}” should be and, or, or the end.");
                    break;
                }
                var or = _text[here] is 'o' or 'O';
                if (any is { } before && before != or)
                {
                    Fail(here, "Join all conditions by and, or all by or.");
                    break;
                }
                any = or;
                if (conditions.Count == Question.Most)
                {
                    Fail(here, $"A question has at most {Question.Most} conditions.");
                    break;
                }
                Skip();
                Last = (_at, null, -1, -1);
                if (_at == _text.Length)
                    Fail(here, $"A condition is missing after “{(or ? "or" : "and")}”.");
            }
            return new Question(any == true, conditions);
        }

        private FieldCondition? One()
        {
            var begin = _at;
            Last = (begin, null, -1, -1);
            (string Name, Field Field, string Key) named;
            if (IsQuote(_at))
            {
                var name = Quoted();
                named = _names.Find(n => n.Name.Equals(name, StringComparison.OrdinalIgnoreCase));
            }
            else
            {
                named = _names.Find(n => Follows(n.Name));
                _at += named.Name?.Length ?? 0;
            }
            if (Fault is not null)
                return null;
            if (named.Name is null)
                return Fail(begin, $"“{Rest(begin)}” does not begin with a field of this document type.");
            Skip();
            var here = _at;
            Last = (begin, named.Field, here, -1);
            if (Ways.FirstOrDefault(w => Follows(w.Words)) is not { Words: { } words, How: var how })
                return Fail(here, $"After {named.Field.Label} comes how it is compared: is, holds, starts with, is from … to, is empty …");
            _at += words.Length;
            if (!named.Field.Kind.Looks.Contains(how))
                return Fail(here, $"{named.Field.Label} cannot be compared with “{words}”.");
            var condition = new FieldCondition(named.Key, named.Field.Kind, how);
            if (how is Look.Empty or Look.Filled)
                return condition;
            if (how == Look.OneOf)
                return Several(condition);
            var first = Value(condition, to: how == Look.Between);
            if (first is null || how != Look.Between)
                return first is null ? null : condition with { Text = first };
            if (words == "is up to")
                return condition with { To = first };
            if (Word("to") is false)
                return condition with { Text = first };
            Skip();
            return Value(condition, to: false) is { } last ? condition with { Text = first, To = last } : null;
        }

        private FieldCondition? Several(FieldCondition condition)
        {
            var values = new List<string>();
            do
            {
                if (Value(condition, to: false, comma: true) is not { } value)
                    return null;
                values.Add(value);
                Skip();
                if (values.Count > Question.MostValues)
                    return Fail(_at, $"A condition names at most {Question.MostValues:N0} values.");
            } while (_at < _text.Length && _text[_at] == ',' && _at++ >= 0);
            if (condition.Kind.WhyNotTogether(values) is { } why)
                return Fail(_at, why);
            return condition with { Values = values };
        }

        private string? Value(FieldCondition condition, bool to, bool comma = false)
        {
            Skip();
            var begin = _at;
            Last = Last with { Value = begin };
            string value;
            if (IsQuote(_at))
                value = Quoted() ?? "";
            else
            {
                for (; _at < _text.Length && !(comma && _text[_at] == ','); _at++)
                    if (char.IsWhiteSpace(_text[_at]) && (At(_at + 1, "and") || At(_at + 1, "or") || to && At(_at + 1, "to")))
                        break;
                value = _text[begin.._at].Trim();
            }
            if (Fault is not null)
                return null;
            if (value.Length == 0)
            {
                Fail(begin, "A value is missing here.");
                return null;
            }
            if (condition.Kind.WhyNotAsked(condition.How, value) is { } why)
            {
                Fail(begin, why);
                return null;
            }
            return value;
        }

        private string? Quoted()
        {
            var begin = _at;
            var plain = _text[begin] == '"';
            var value = new StringBuilder();
            for (_at++; _at < _text.Length; _at++)
                if (plain ? _text[_at] != '"' : _text[_at] is not ('“' or '”'))
                    value.Append(_text[_at]);
                else if (plain && _at + 1 < _text.Length && _text[_at + 1] == '"')
                    value.Append(_text[++_at]);
                else
                {
                    _at++;
                    return value.ToString();
                }
            Fail(begin, "A quotation mark is not closed.");
            return null;
        }

        private bool IsQuote(int at) => at < _text.Length && _text[at] is '"' or '“' or '”';

        // Whether words stand here and end here.
        private bool Follows(string words) =>
            string.Compare(_text, _at, words, 0, words.Length, StringComparison.OrdinalIgnoreCase) == 0 && Ends(_at + words.Length);

        private bool At(int at, string word) =>
            string.Compare(_text, at, word, 0, word.Length, StringComparison.OrdinalIgnoreCase) == 0
            && at + word.Length <= _text.Length
            && Ends(at + word.Length);

        private bool Ends(int at) => at >= _text.Length || char.IsWhiteSpace(_text[at]) || _text[at] is ',' or '"' or '“';

        private bool Word(string word)
        {
            Skip();
            if (!At(_at, word))
                return false;
            _at += word.Length;
            return true;
        }

        private void Skip()
        {
            while (_at < _text.Length && char.IsWhiteSpace(_text[_at]))
                _at++;
        }

        private string Rest(int from) => _text.Length - from > 30 ? _text[from..(from + 30)] + "…" : _text[from..];

        private FieldCondition? Fail(int at, string says)
        {
            Fault ??= new QuestionFault(at, says);
            return null;
        }
    }
}
