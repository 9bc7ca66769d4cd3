using System.Buffers;
using System.Globalization;
using System.Text;
using System.Text.Json;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Cleaning;

/// <summary>Cleans and reads the texts of one field, compiled once. Immutable and thread-safe.</summary>
public sealed class FieldReader
{
    /// <summary>Most rows of a table in one record.</summary>
    public const int MostRows = 2_000;

    private static readonly JsonWriterOptions Written = new()
    {
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private readonly FieldKind _kind;
    private readonly Func<string, string>? _clean;
    private readonly VocabularyIndex? _terms;
    private readonly CheckScheme? _scheme;
    private readonly string? _currency;
    private readonly FieldReader[] _columns = [];

    /// <summary>The field.</summary>
    public Field Field { get; }

    /// <summary>Compiles a field.</summary>
    /// <param name="field">The field.</param>
    /// <param name="vocabularies">Vocabularies by key; a term field whose vocabulary is missing accepts nothing.</param>
    public FieldReader(Field field, IReadOnlyDictionary<string, VocabularyIndex> vocabularies)
    {
        Field = field;
        _kind = field.Kind;
        _terms = field.Vocabulary is { } v ? vocabularies.GetValueOrDefault(v) : null;
        _clean = field.Cleaning is { Count: > 0 } steps ? CleaningSteps.Compile(steps, field) : null;
        _scheme = field is IdentifierField identifier ? CheckSchemes.Find(identifier.Scheme) : null;
        _currency = field is AmountField { Currencies: [var first, ..] } ? first : null;
        _columns = [.. field.Columns.Select(c => new FieldReader(c, vocabularies))];
    }

    /// <summary>Readers of a table's columns.</summary>
    public IReadOnlyList<FieldReader> Columns => _columns;

    /// <summary>The vocabulary of a term field.</summary>
    public VocabularyIndex? Terms => _terms;

    /// <summary>Reads one text as the field.</summary>
    public FieldValue Read(string? text)
    {
        if (text is not null && !CodePoints.AreSound(text))
            return new FieldValue
            {
                Text = CodePoints.Repaired(text),
                Part = Unsound,
                State = ValueState.Unreadable,
            };
        if (_clean is not null && !string.IsNullOrEmpty(text))
            text = _clean(text);
        switch (_kind)
        {
            case <= FieldKind.Term or FieldKind.Time:
                return FieldParsing.Parse(_kind, text, _terms);
            case FieldKind.Table:
                return ReadTable(text);
        }
        if (string.IsNullOrWhiteSpace(text))
            return FieldValue.Empty;
        text = text.Trim();
        return _kind switch
        {
            FieldKind.Amount => ReadAmount(text),
            FieldKind.Terms => ReadTerms(text),
            _ => ReadIdentifier(text),
        };
    }

    /// <summary>Whether a value could not be read because it holds NUL or half of a pair of surrogates.</summary>
    internal static bool IsUnsound(in FieldValue value) => ReferenceEquals(value.Part, Unsound);

    private static readonly object Unsound = new();

    private FieldValue ReadIdentifier(string text)
    {
        if (_scheme is null)
            return new FieldValue { Text = text, State = ValueState.Good };
        var compact = CheckScheme.Compact(text);
        return new FieldValue { Text = _scheme.Problem(compact) is null ? _scheme.Write(compact) : text, State = ValueState.Good };
    }

    private FieldValue ReadAmount(string text)
    {
        var (number, currency) = (text, _currency);
        if (text.Length > 3 && char.IsAsciiLetter(text[^1]))
            (number, currency) = (text[..^3], text[^3..].ToUpperInvariant());
        else if (char.IsAsciiLetter(text[0]) && text.Length > 3)
            (number, currency) = (text[3..], text[..3].ToUpperInvariant());
        if (
            currency is null
            || !decimal.TryParse(
                number.Trim(),
                NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint,
                CultureInfo.InvariantCulture,
                out var value
            )
        )
            return new FieldValue { Text = text, State = ValueState.Unreadable };
        return new FieldValue
        {
            Text = string.Create(CultureInfo.InvariantCulture, $"{value} {currency}"),
            Number = value,
            Part = currency,
            State = ValueState.Good,
        };
    }

    private FieldValue ReadTerms(string text)
    {
        var pieces = FieldParsing.Terms(text);
        var terms = new List<int>(pieces.Length);
        var labels = new List<string>(pieces.Length);
        for (var i = 0; i < pieces.Length; )
        {
            // A label may hold the separator itself: the longest run of pieces that is a spelling wins.
            var taken = 1;
            var value = FieldParsing.Parse(FieldKind.Term, pieces[i], _terms);
            for (var end = pieces.Length; end > i + 1; end--)
                if (_terms?.IndexOf(string.Join("; ", pieces[i..end])) is >= 0 and var index)
                {
                    value = new FieldValue
                    {
                        Text = _terms.Vocabulary.Terms[index].Label,
                        Term = index,
                        State = ValueState.Good,
                    };
                    taken = end - i;
                    break;
                }
            if (!value.IsGood)
                return new FieldValue { Text = text, State = ValueState.Unreadable };
            if (!labels.Contains(value.Text, StringComparer.Ordinal))
            {
                terms.Add(value.Term);
                labels.Add(value.Text);
            }
            i += taken;
        }
        return labels.Count == 0
            ? FieldValue.Empty
            : new FieldValue
            {
                Text = string.Join("; ", labels),
                Part = terms.ToArray(),
                State = ValueState.Good,
            };
    }

    private FieldValue ReadTable(string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
            return FieldValue.Empty;
        if (TableText.Rows(text) is not { } given || given.Count > MostRows)
            return new FieldValue { Text = text, State = ValueState.Unreadable };
        var rows = new List<FieldValue[]>(given.Count);
        foreach (var texts in given)
        {
            if (texts.Values.All(string.IsNullOrWhiteSpace))
                continue;
            var row = new FieldValue[_columns.Length];
            for (var i = 0; i < row.Length; i++)
                row[i] = _columns[i]
                    .Read(
                        texts.GetValueOrDefault(Field.Columns![i].Key)
                            ?? (Field.Columns[i].DefaultFrom == DefaultSource.Constant ? Field.Columns[i].Default : null)
                    );
            if (row.Any(v => !v.IsEmpty))
                rows.Add(row);
        }
        return rows.Count == 0
            ? FieldValue.Empty
            : new FieldValue
            {
                Text = Write(rows),
                Part = rows.ToArray(),
                State = ValueState.Good,
            };
    }

    private string Write(List<FieldValue[]> rows)
    {
        var buffer = new ArrayBufferWriter<byte>();
        using (var writer = new Utf8JsonWriter(buffer, Written))
        {
            writer.WriteStartArray();
            foreach (var row in rows)
            {
                writer.WriteStartObject();
                for (var i = 0; i < row.Length; i++)
                    if (!row[i].IsEmpty)
                        writer.WriteString(Field.Columns![i].Key, row[i].Text);
                writer.WriteEndObject();
            }
            writer.WriteEndArray();
        }
        return Encoding.UTF8.GetString(buffer.WrittenSpan);
    }
}
