using ClearLexicon.Core.Schemas;

namespace ClearLexicon.Core.Rules;

/// <summary>
/// The IMO ship identification number: seven digits of which the last is the unit digit of the sum of the first six,
/// weighted 7 down to 2 (IMO Resolution A.1117(30)). Example: 9074729 → 9·7+0·6+7·5+4·4+7·3+2·2 = 139 → 9. A leading
/// <c>IMO</c> is allowed.
/// </summary>
public sealed class ImoCheckDigit : IRuleKind
{
    /// <inheritdoc/>
    public string Code => "imo-check-digit";

    /// <inheritdoc/>
    public string Title => "An IMO ship number passes its check digit";

    /// <inheritdoc/>
    public IReadOnlyList<RuleParameter> Parameters { get; } =
        [new("field", "Ship number", ParameterKind.Field, [FieldKind.Text, FieldKind.WholeNumber])];

    /// <inheritdoc/>
    public string Sentence(Rule rule, DocumentType type) => $"{type.LabelOf(rule["field"])} passes the IMO check digit";

    /// <inheritdoc/>
    public Check Compile(Rule rule, DocumentType type)
    {
        var field = type.OrdinalOf(rule["field"]);
        return record =>
        {
            if (!record[field].IsGood) return null;
            ReadOnlySpan<char> digits = record[field].Text;
            if (digits.StartsWith("IMO", StringComparison.OrdinalIgnoreCase)) digits = digits[3..].TrimStart();
            var expected = CheckDigit(digits);
            if (expected < 0) return new Problem("imo-length", rule.Level, rule["field"], record[field].Text, null, null, rule.Id, rule.Message);
            return digits[6] - '0' == expected
                ? null
                : new Problem(Code, rule.Level, rule["field"], record[field].Text, expected.ToString(), null, rule.Id, rule.Message);
        };
    }

    /// <summary>The digit that should stand last in seven digits; -1 when they are not seven digits.</summary>
    public static int CheckDigit(ReadOnlySpan<char> seven)
    {
        if (seven.Length != 7) return -1;
        var sum = 0;
        for (var i = 0; i < 7; i++)
        {
            if (!char.IsAsciiDigit(seven[i])) return -1;
            if (i < 6) sum += (seven[i] - '0') * (7 - i);
        }
        return sum % 10;
    }
}
