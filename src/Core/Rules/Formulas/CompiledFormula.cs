using System.Globalization;
using System.Text.RegularExpressions;
using ClearLexicon.Core.Schemas;
using NCalc;
using NCalc.Exceptions;

namespace ClearLexicon.Core.Rules.Formulas;

/// <summary>
/// A formula read by NCalc's grammar and compiled into delegates over a record. Fields stand in brackets by key or label:
/// <c>[net] + [tax] = [total]</c>; a table's column as <c>Sum([services.amount])</c>. Immutable and thread-safe.
/// </summary>
public sealed partial class CompiledFormula
{
    /// <summary>Longest formula that is read.</summary>
    public const int Longest = 1_000;

    private readonly Part _part;

    private CompiledFormula(Part part, IReadOnlyList<string> fields) => (_part, Fields) = (part, fields);

    /// <summary>Keys of the fields it names.</summary>
    public IReadOnlyList<string> Fields { get; }

    /// <summary>Computes it for a record.</summary>
    public FormulaValue Evaluate(ReadOnlySpan<FieldValue> record, Circumstances now) => _part(record, now);

    /// <summary>Reads and compiles a formula.</summary>
    /// <param name="text">The formula.</param>
    /// <param name="type">The type whose fields it may name.</param>
    /// <param name="formula">The compiled formula, or null.</param>
    /// <param name="problem">What is wrong and where, in one sentence.</param>
    public static bool TryCompile(string text, DocumentType type, out CompiledFormula? formula, out string? problem)
    {
        (formula, problem) = (null, null);
        if (text.Length > Longest) { problem = $"The formula is longer than {Longest} characters."; return false; }
        try
        {
            var options = new LogicalExpressionParserOptions { FloatingPointNumberType = FloatingPointNumberType.Decimal };
            var read = LogicalExpressionParser.Parse(new LogicalExpressionParseContext(text, options, CancellationToken.None));
            var compiler = new FormulaCompiler(text, type);
            var part = compiler.Compile(read);
            formula = new CompiledFormula(part, compiler.Fields);
            return true;
        }
        catch (FormulaException e)
        {
            problem = e.At >= 0 ? $"The formula goes wrong at character {e.At + 1}: {e.Message}" : $"The formula goes wrong: {e.Message}";
        }
        catch (NCalcException e)
        {
            var at = Position().Match(e.Message);
            problem = at.Success
                ? $"The formula goes wrong at character {int.Parse(at.Groups[1].Value, CultureInfo.InvariantCulture)}: {e.Message[..at.Index].TrimEnd(' ', '.').ToLowerInvariant()}."
                : text.Count(c => c == '\'') % 2 == 1 ? $"The formula goes wrong at character {text.LastIndexOf('\'') + 1}: the text that begins there is not closed."
                : $"The formula cannot be read: {e.Message}";
        }
        catch (InvalidOperationException e)
        {
            // The grammar throws this for two operators in a row, without saying where.
            var at = Operators().Match(text);
            problem = $"The formula goes wrong{(at.Success ? $" at character {at.Index + at.Length}" : "")}: {e.Message.TrimEnd('.').ToLowerInvariant()}.";
        }
        return false;
    }

    [GeneratedRegex(@"[-+*/%<>=]\s*[*/%=<>](?<![<>!=]=)")]
    private static partial Regex Operators();

    [GeneratedRegex(@"\s*at position \(\d+:(\d+)\)\.?")]
    private static partial Regex Position();
}

/// <summary>Why a formula cannot be compiled, and where.</summary>
internal sealed class FormulaException(string message, int at) : Exception(message)
{
    public int At { get; } = at;
}
