using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;
using ClearLexicon.Core.Cleaning;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Reading;
using ClearLexicon.Core.Rules;
using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Designs;

/// <summary>
/// Writes a document type as JSON Schema 2020-12: everything in the design which that standard can say. What it cannot
/// (check digits, sums, comparisons of fields, uniqueness) is named in <c>$comment</c>.
/// </summary>
public static class JsonSchemaExport
{
    /// <summary>The schema of one record: as the API takes it, or as it gives a sound one back.</summary>
    /// <param name="compiled">The type.</param>
    /// <param name="given">
    /// For what is given back: defaults are filled in, values are cleaned and in the one form they are kept in. Otherwise for what may be
    /// sent, where defaults may be missing and terms may stand in any of their spellings.
    /// </param>
    public static JsonObject Write(CompiledType compiled, bool given = false)
    {
        var schema = Object(
            compiled.Type.Fields,
            [.. Enumerable.Range(0, compiled.Width).Select(compiled.ReaderOf)],
            compiled.Type.Rules,
            compiled.Scope,
            given
        );
        schema.Insert(0, "$schema", "https://json-schema.org/draft/2020-12/schema");
        schema.Insert(1, "title", $"{compiled.Type.Name}, {(given ? "as it is given back" : "as it may be sent")}");
        return schema;
    }

    private static JsonObject Object(
        IReadOnlyList<Field> fields,
        IReadOnlyList<FieldReader> readers,
        IReadOnlyList<Rule> rules,
        RuleScope scope,
        bool given
    )
    {
        var properties = new JsonObject();
        var required = new JsonArray();
        var said = new JsonArray();
        var unsaid = new List<string>();
        for (var i = 0; i < fields.Count; i++)
        {
            var field = fields[i];
            properties[field.Key] = Property(field, readers[i], scope, given, unsaid);
            // A default may fill what a record lacks.
            var filled = field.DefaultFrom != DefaultSource.Constant || !string.IsNullOrEmpty(field.Default);
            if (field.Required && (given || !filled))
                required.Add(field.Key);
            if (
                !field.Required
                && field.RequiredWhen is { Comparisons.Count: > 0 } when
                && !filled
                && when.Finding(scope.Type) is null
                && If(when, new JsonObject { ["required"] = new JsonArray(field.Key) }, scope) is { } conditional
            )
                said.Add(conditional);
            else if (field.RequiredWhen is not null)
                unsaid.Add($"{field.Label} is required when {field.RequiredWhen.InWords(scope.Type)}");
        }
        foreach (var rule in rules.Where(r => RuleKinds.Finding(r, scope.Type) is null))
        {
            var sub = rule.Level == Level.Must ? RuleKinds.Find(rule.Kind)!.ToJsonSchema(rule, scope) : null;
            if (sub is not null && rule.When is { Comparisons.Count: > 0 } when)
                sub = If(when, sub, scope);
            if (sub is not null)
                said.Add(sub);
            else
                unsaid.Add(RuleKinds.Sentence(rule, scope.Type));
        }
        var schema = new JsonObject
        {
            ["type"] = "object",
            ["properties"] = properties,
            ["required"] = required,
            ["additionalProperties"] = false,
        };
        if (said.Count > 0)
            schema["allOf"] = said;
        if (unsaid.Count > 0)
            schema["$comment"] = "Not said here: " + string.Join("; ", unsaid) + ".";
        return schema;
    }

    /// <summary>A subschema that applies under a condition; null when the condition cannot be said.</summary>
    private static JsonObject? If(Condition when, JsonObject then, RuleScope scope)
    {
        var parts = new List<JsonNode>();
        foreach (var comparison in when.Comparisons)
            if (Said(comparison, scope) is { } part)
                parts.Add(part);
            else
                return null;
        var joined = new JsonArray([.. parts]);
        return new JsonObject
        {
            ["if"] = when.Match switch
            {
                Joined.All => new JsonObject { ["allOf"] = joined },
                Joined.Any => new JsonObject { ["anyOf"] = joined },
                _ => new JsonObject { ["not"] = new JsonObject { ["anyOf"] = joined } },
            },
            ["then"] = then,
        };
    }

    private static JsonObject? Said(Comparison c, RuleScope scope)
    {
        if (scope.Type.Find(c.Subject) is not { } field || field.DefaultFrom != DefaultSource.Constant || field.Cleaning is { Count: > 0 })
            return null;
        // A field with a default has a value that the record need not show.
        var given = string.IsNullOrEmpty(field.Default) ? null : field.Default;
        if (given is not null && c.Operator is not (Operator.Is or Operator.OneOf))
            return null;
        var filled = new JsonObject { ["required"] = new JsonArray(field.Key) };
        if (c.Operator == Operator.IsFilled)
            return filled;
        if (c.Operator == Operator.IsEmpty)
            return new JsonObject { ["not"] = filled };
        var limit = c.Operator switch
        {
            Operator.Is or Operator.OneOf => Equal(
                field,
                c.Operator == Operator.OneOf ? c.Value.Split('|', StringSplitOptions.TrimEntries) : [c.Value.Trim()],
                scope
            ),
            Operator.Below when Numeric(field) => new JsonObject { ["exclusiveMaximum"] = Number(c.Value) },
            Operator.AtMost when Numeric(field) => new JsonObject { ["maximum"] = Number(c.Value) },
            Operator.Above when Numeric(field) => new JsonObject { ["exclusiveMinimum"] = Number(c.Value) },
            Operator.AtLeast when Numeric(field) => new JsonObject { ["minimum"] = Number(c.Value) },
            _ => null,
        };
        if (limit is null)
            return null;
        filled["properties"] = new JsonObject { [field.Key] = limit };
        return given is not null && c.Value.Split('|', StringSplitOptions.TrimEntries).Contains(given, StringComparer.OrdinalIgnoreCase)
            ? new JsonObject
            {
                ["anyOf"] = new JsonArray(filled, new JsonObject { ["not"] = new JsonObject { ["required"] = new JsonArray(field.Key) } }),
            }
            : filled;
    }

    private static bool Numeric(Field field) => field.Kind is FieldKind.WholeNumber or FieldKind.Decimal;

    // JSON Schema compares exactly: a yes/no is a boolean there, a term has all its spellings, a text both cases of each letter.
    private static JsonObject? Equal(Field field, string[] values, RuleScope scope) =>
        field.Kind switch
        {
            FieldKind.YesNo when values is [var one] => new JsonObject
            {
                ["const"] = FieldParsing.Parse(FieldKind.YesNo, one, null).Number == 1,
            },
            FieldKind.WholeNumber or FieldKind.Decimal => new JsonObject
            {
                ["enum"] = new JsonArray([.. values.Select(v => (JsonNode?)JsonValue.Create(Number(v)))]),
            },
            FieldKind.Term when scope.Vocabularies.GetValueOrDefault(field.Vocabulary ?? "") is { } terms => new JsonObject
            {
                ["enum"] = Strings(
                    values.Select(terms.IndexOfAny).Where(i => i >= 0).SelectMany(i => Spellings(terms.Vocabulary.Terms[i]))
                ),
            },
            FieldKind.Text => new JsonObject { ["pattern"] = $"^(?:{string.Join('|', values.Select(AnyCase))})$" },
            FieldKind.Date or FieldKind.Time => new JsonObject { ["enum"] = Strings(values) },
            _ => null,
        };

    private const string EcmaSyntax = @"^$\.*+?()[]{}|/";

    private static string AnyCase(string text)
    {
        var pattern = new StringBuilder();
        // As ValueKey compares: blanks and dashes are one, at the ends they are none.
        var parts = text.Split(text.Where(ValueKey.Separates).Distinct().ToArray(), StringSplitOptions.RemoveEmptyEntries);
        const string between = @"[\s\-\u2010-\u2014]";
        foreach (var (part, i) in parts.Select((p, i) => (p, i)))
        {
            if (i > 0)
                pattern.Append(between).Append('+');
            foreach (var c in part)
                if (char.IsLetter(c) && char.ToUpperInvariant(c) != char.ToLowerInvariant(c))
                    pattern.Append('[').Append(char.ToUpperInvariant(c)).Append(char.ToLowerInvariant(c)).Append(']');
                else
                    pattern.Append(EcmaSyntax.Contains(c) ? "\\" : "").Append(c);
        }
        return parts.Length == 0 ? "" : $"{between}*{pattern}{between}*";
    }

    private static JsonObject Property(Field field, FieldReader reader, RuleScope scope, bool given, List<string> unsaid)
    {
        var property = new JsonObject { ["title"] = field.Label };
        if (!string.IsNullOrEmpty(field.Help))
            property["description"] = field.Help;
        var cleaned = !given && field.Cleaning is { Count: > 0 };
        // Blanks alone are nothing.
        void NotBlank() =>
            property[property.ContainsKey("pattern") ? "allOf" : "pattern"] = property.ContainsKey("pattern")
                ? new JsonArray(new JsonObject { ["pattern"] = @"\S" })
                : JsonValue.Create(@"\S");
        switch (field)
        {
            case TextField text:
                property["type"] = "string";
                if (cleaned)
                {
                    property["$comment"] = "Values are cleaned before they are checked.";
                    break;
                }
                if (field.Required || text.MinLength > 0)
                    property["minLength"] = Math.Max(text.MinLength ?? 0, field.Required ? 1 : 0);
                if (text.MaxLength is { } most)
                    property["maxLength"] = most;
                if (text.Pattern is { Length: > 0 } pattern)
                {
                    if (PatternDialect.Read(pattern).Ecma is { } ecma)
                        property["pattern"] = $"^(?:{ecma})$";
                    else
                        unsaid.Add($"{field.Label} matches {pattern}");
                }
                if (field.Required)
                    NotBlank();
                break;
            case WholeNumberField or DecimalField:
                var (name, range) = (field is WholeNumberField ? "integer" : "number", (RangedField)field);
                property["type"] = cleaned ? new JsonArray(name, "string") : name;
                if (Number(range.Min) is { } least)
                    property["minimum"] = least;
                if (Number(range.Max) is { } greatest)
                    property["maximum"] = greatest;
                break;
            case DateField date:
                property["type"] = "string";
                if (!cleaned)
                    property["format"] = "date";
                if (date.Min is not null || date.Max is not null)
                    unsaid.Add($"{field.Label} lies {Within.Words(date.Min ?? "", date.Max ?? "")}");
                break;
            case TimeField time:
                property["type"] = "string";
                if (!cleaned)
                    property["pattern"] = given ? "^(?:[01][0-9]|2[0-3]):[0-5][0-9]$" : @"^\s*(?:[01]?[0-9]|2[0-3]):[0-5][0-9](?::00)?\s*$";
                if (time.Min is not null || time.Max is not null)
                    unsaid.Add($"{field.Label} lies {Within.Words(time.Min ?? "", time.Max ?? "")}");
                break;
            case YesNoField:
                property["type"] = "boolean";
                break;
            case AmountField amount:
                property["type"] = "string";
                if (!cleaned)
                    property["pattern"] = Amount(amount, given);
                if ((amount.Currencies is { Count: > 0 } own ? own : Currencies.All).Select(Currencies.PlacesOf).Distinct().Count() > 1)
                    unsaid.Add($"{field.Label} has as many decimal places as its currency");
                if (amount.Min is not null || amount.Max is not null)
                    unsaid.Add($"{field.Label} lies {Within.Words(amount.Min ?? "", amount.Max ?? "")}");
                break;
            case IdentifierField identifier:
                property["type"] = "string";
                property["$comment"] = $"Check digit: {Fields.CheckDigits.CheckSchemes.Find(identifier.Scheme)?.Standard}.";
                if (field.Required)
                    NotBlank();
                break;
            case TableField table:
                property["type"] = "array";
                property["maxItems"] = FieldReader.MostRows;
                if (field.Required)
                    property["minItems"] = 1;
                property["items"] = Object(
                    table.Columns,
                    reader.Columns,
                    table.RowRules,
                    scope with
                    {
                        Type = DocumentType.OfRows(table),
                    },
                    given
                );
                break;
            case TermsField several:
                property["type"] = "array";
                if (field.Required)
                    property["minItems"] = 1;
                property["items"] = Terms(several, reader.Terms, given);
                break;
            case TermField term:
                foreach (var (part, value) in Terms(term, reader.Terms, given))
                    property[part] = value?.DeepClone();
                if (field.Required && !property.ContainsKey("enum"))
                    NotBlank();
                break;
        }
        if (field.Standard is { } standard)
            property["x-standard"] = StandardTerms.Find(standard)?.Uri;
        if (
            field.Example is { Length: > 0 } example
            && field.Kind
                is FieldKind.Text
                    or FieldKind.Date
                    or FieldKind.Time
                    or FieldKind.Term
                    or FieldKind.Identifier
                    or FieldKind.Amount
        )
            property["examples"] = new JsonArray(example);
        if (field.DefaultFrom == DefaultSource.Constant && field.Default is { Length: > 0 } usual)
            property["default"] = field.Kind switch
            {
                FieldKind.YesNo => JsonValue.Create(FieldParsing.Parse(field.Kind, usual, null).Number == 1),
                FieldKind.WholeNumber or FieldKind.Decimal => Number(usual) is { } n ? JsonValue.Create(n) : null,
                _ => JsonValue.Create(usual),
            };
        return property;
    }

    // Digits after the point as the currencies have them; the code may be left out where the field has one of its own.
    private static string Amount(AmountField field, bool given)
    {
        var codes = field.Currencies is { Count: > 0 } some ? some : [.. Currencies.All];
        var places = codes.Select(c => Currencies.PlacesOf(c) ?? 0).DefaultIfEmpty(0).Max();
        var number = places == 0 ? "-?[0-9]+(?:\\.0+)?" : $"-?[0-9]+(?:\\.[0-9]{{1,{places}}}0*)?";
        return $"^{number} ?(?:{string.Join('|', codes)}){(field.Currencies is { Count: > 0 } && !given ? "?" : "")}$";
    }

    private static JsonObject Terms(VocabularyField field, VocabularyIndex? terms, bool given)
    {
        if (terms is null || terms.Vocabulary.Growth != Growth.Fixed || !given && field.Cleaning is { Count: > 0 })
            return new JsonObject { ["type"] = "string" };
        var taken = VocabularyTerms.Fitting(field, terms);
        var spellings = Strings(taken.SelectMany(i => given ? [terms.Vocabulary.Terms[i].Label] : Spellings(terms.Vocabulary.Terms[i])));
        // A list of no values is none that validators take.
        return spellings.Count == 0
            ? new JsonObject { ["type"] = "string", ["not"] = new JsonObject() }
            : new JsonObject { ["type"] = "string", ["enum"] = spellings };
    }

    private static IEnumerable<string> Spellings(Term t)
    {
        yield return t.Label;
        if (t.Code is { Length: > 0 } code)
            yield return code;
        foreach (var variant in t.Variants)
            yield return variant;
        foreach (var words in t.Words.Values)
        {
            if (words.Label.Length > 0)
                yield return words.Label;
            foreach (var variant in words.Variants)
                yield return variant;
        }
    }

    private static JsonArray Strings(IEnumerable<string> texts) =>
        new([.. texts.Distinct(StringComparer.Ordinal).Select(s => (JsonNode)JsonValue.Create(s))]);

    private static decimal? Number(string? text) => Numbers.Stored(text ?? "");
}
