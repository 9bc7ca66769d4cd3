using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules.Formulas;

/// <summary>
/// A formula compiled into delegates over a record; each part is computed once a record. Fields stand in brackets by key or label:
/// <c>[net] + [tax] = [total]</c>; a table's column as <c>Sum([services.amount])</c>. Immutable and thread-safe.
/// </summary>
public sealed class CompiledFormula
{
    /// <summary>Longest formula that is read.</summary>
    public const int Longest = 1_000;

    private readonly Part _part;

    private CompiledFormula(Part part, IReadOnlyList<string> fields) => (_part, Fields) = (part, fields);

    /// <summary>Keys of the fields it names.</summary>
    public IReadOnlyList<string> Fields { get; }

    /// <summary>Computes it for a record. What cannot be computed is a value that says why; it never throws.</summary>
    public FormulaValue Evaluate(ReadOnlySpan<FieldValue> record, CheckContext now) => _part(record, now);

    /// <summary>Reads and compiles a formula.</summary>
    /// <param name="text">The formula.</param>
    /// <param name="type">The type whose fields it may name.</param>
    /// <param name="formula">The compiled formula, or null.</param>
    /// <param name="problem">What is wrong and where, in one sentence.</param>
    public static bool TryCompile(string text, TypeFields type, out CompiledFormula? formula, out string? problem)
    {
        (formula, problem) = (null, null);
        if (text.Length > Longest)
        {
            problem = $"The formula is longer than {Longest} characters.";
            return false;
        }
        try
        {
            var compiler = new FormulaCompiler(type);
            formula = new CompiledFormula(compiler.Compile(FormulaGrammar.Read(text)), compiler.Fields);
            return true;
        }
        catch (FormulaException e)
        {
            problem = e.At >= 0 ? $"Error in the formula at character {e.At + 1}: {e.Message}" : $"Error in the formula: {e.Message}";
            return false;
        }
    }
}

/// <summary>Why a formula cannot be compiled, and where, from 0; -1 when it is no place.</summary>
internal sealed class FormulaException(string message, int at) : Exception(message)
{
    public int At { get; } = at;
}
