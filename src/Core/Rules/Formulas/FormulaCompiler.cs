using ClearLexicon.Core.Schemas;
using NCalc;

namespace ClearLexicon.Core.Rules.Formulas;

/// <summary>Turns a formula's tree into delegates.</summary>
internal sealed class FormulaCompiler(string text, DocumentType type)
{
    private readonly List<string> _fields = [];

    public IReadOnlyList<string> Fields => _fields;

    public Part Compile(LogicalExpression expression)
    {
        switch (expression)
        {
            case ValueExpression value:
                var constant = Constant(value.Value);
                return (_, _) => constant;
            case NCalc.Identifier identifier: return Field(identifier.Name);
            case UnaryExpression unary:
                var operand = Compile(unary.Expression);
                return unary.Type switch
                {
                    UnaryExpressionType.Not => (r, n) => operand(r, n) is { Kind: FormulaKind.Truth } v ? FormulaValue.Of(v.Number == 0) : operand(r, n),
                    UnaryExpressionType.Negate => (r, n) => operand(r, n) is { Kind: FormulaKind.Number } v ? v with { Number = -v.Number } : operand(r, n),
                    UnaryExpressionType.Positive => operand,
                    _ => throw new FormulaException($"{unary.Type} is not known here.", -1),
                };
            case BinaryExpression binary: return Binary(binary);
            case TernaryExpression choice: return If(Compile(choice.LeftExpression), Compile(choice.MiddleExpression), Compile(choice.RightExpression));
            case Function function: return Call(function);
            default: throw new FormulaException("a list stands where a value is needed.", -1);
        }
    }

    internal static Part If(Part when, Part then, Part otherwise) => (r, n) => when(r, n) switch
    {
        { Kind: FormulaKind.Truth } v => v.Number != 0 ? then(r, n) : otherwise(r, n),
        var other => other,
    };

    internal FormulaException Unknown(string what, string name) => new(what, text.IndexOf(name, StringComparison.Ordinal));

    private Part Call(Function function)
    {
        var name = function.Identifier.Name;
        List<LogicalExpression> arguments = [];
        for (var i = 0; i < function.Parameters.Count; i++) arguments.Add(function.Parameters[i]);
        if (name.ToUpperInvariant() is "SUM" or "COUNT" && arguments is [NCalc.Identifier table]) return Rows(name, table.Name);
        return FormulaFunctions.Make(name, [.. arguments.Select(Compile)]) ?? throw Unknown(FormulaFunctions.Fault(name, arguments.Count), name);
    }

    private Part Rows(string function, string name)
    {
        var dot = name.IndexOf('.');
        var key = Key(dot < 0 ? name : name[..dot]);
        var (field, column) = type.PlaceOf(dot < 0 ? key : key + name[dot..]);
        if (field < 0 || type.Fields[field].Kind is not (FieldKind.Table or FieldKind.Terms)) throw Unknown($"“{name}” is no table.", name);
        _fields.Add(key);
        if (function.Equals("COUNT", StringComparison.OrdinalIgnoreCase)) return (r, _) => FormulaValue.Of((decimal)(r[field].Rows.Length + r[field].Terms.Length));
        if (column < 0) throw Unknown($"“{name}” names no column of a table; write [table.column].", name);
        return (r, _) =>
        {
            var sum = 0m;
            foreach (var row in r[field].Rows) sum += row[column].Number;
            return FormulaValue.Of(sum);
        };
    }

    private string Key(string name) =>
        type.Find(name)?.Key ?? type.Fields.FirstOrDefault(f => string.Equals(f.Label, name, StringComparison.OrdinalIgnoreCase))?.Key
        ?? throw Unknown($"there is no field “{name}”.", name);

    private Part Field(string name)
    {
        var key = Key(name);
        var at = type.OrdinalOf(key);
        if (!_fields.Contains(key, StringComparer.Ordinal)) _fields.Add(key);
        return type.Fields[at].Kind switch
        {
            FieldKind.WholeNumber or FieldKind.Decimal or FieldKind.Amount => (r, _) => r[at].IsGood ? FormulaValue.Of(r[at].Number) : FormulaValue.Empty,
            FieldKind.Date => (r, _) => r[at].IsGood ? FormulaValue.Of(r[at].Date) : FormulaValue.Empty,
            FieldKind.YesNo => (r, _) => r[at].IsGood ? FormulaValue.Of(r[at].Number == 1) : FormulaValue.Empty,
            FieldKind.Table => throw Unknown($"“{name}” is a table; write Sum([{key}.column]) or Count([{key}]).", name),
            _ => (r, _) => r[at].IsGood ? FormulaValue.Of(r[at].Text) : FormulaValue.Empty,
        };
    }

    private static FormulaValue Constant(object? value) => value switch
    {
        bool b => FormulaValue.Of(b),
        string s => new FormulaValue(FormulaKind.Text, 0, s),
        char c => FormulaValue.Of(c.ToString()),
        DateTime d => FormulaValue.Of(DateOnly.FromDateTime(d)),
        double d => FormulaValue.Of((decimal)d),
        IConvertible number => FormulaValue.Of(number.ToDecimal(System.Globalization.CultureInfo.InvariantCulture)),
        _ => throw new FormulaException($"“{value}” is no number, text, date or yes/no.", -1),
    };

    private Part Binary(BinaryExpression binary)
    {
        Part left = Compile(binary.LeftExpression), right = Compile(binary.RightExpression);
        return binary.Type switch
        {
            BinaryExpressionType.And => (r, n) => left(r, n) is { Kind: FormulaKind.Truth, Number: 0 } or { Kind: FormulaKind.Failed } ? left(r, n) : Both(left(r, n), right(r, n)),
            BinaryExpressionType.Or => (r, n) => left(r, n) is { IsTrue: true } or { Kind: FormulaKind.Failed } ? left(r, n) : Either(left(r, n), right(r, n)),
            BinaryExpressionType.Plus => (r, n) => Arithmetic(left(r, n), right(r, n), '+'),
            BinaryExpressionType.Minus => (r, n) => Arithmetic(left(r, n), right(r, n), '-'),
            BinaryExpressionType.Times => (r, n) => Arithmetic(left(r, n), right(r, n), '*'),
            BinaryExpressionType.Div => (r, n) => Arithmetic(left(r, n), right(r, n), '/'),
            BinaryExpressionType.Modulo => (r, n) => Arithmetic(left(r, n), right(r, n), '%'),
            BinaryExpressionType.Equal => Comparing(left, right, static o => o == 0),
            BinaryExpressionType.NotEqual => Comparing(left, right, static o => o != 0),
            BinaryExpressionType.Lesser => Comparing(left, right, static o => o < 0),
            BinaryExpressionType.LesserOrEqual => Comparing(left, right, static o => o <= 0),
            BinaryExpressionType.Greater => Comparing(left, right, static o => o > 0),
            BinaryExpressionType.GreaterOrEqual => Comparing(left, right, static o => o >= 0),
            _ => throw new FormulaException($"{binary.Type} is not known here.", -1),
        };
    }

    private static FormulaValue Both(in FormulaValue a, in FormulaValue b) =>
        b.Kind == FormulaKind.Failed || b is { Kind: FormulaKind.Truth, Number: 0 } ? b : a.Kind == FormulaKind.Empty || b.Kind == FormulaKind.Empty ? FormulaValue.Empty : FormulaValue.Of(a.IsTrue && b.IsTrue);

    private static FormulaValue Either(in FormulaValue a, in FormulaValue b) =>
        b.Kind == FormulaKind.Failed || b.IsTrue ? b : a.Kind == FormulaKind.Empty || b.Kind == FormulaKind.Empty ? FormulaValue.Empty : FormulaValue.Of(false);

    private static FormulaValue Arithmetic(in FormulaValue a, in FormulaValue b, char how)
    {
        if (a.Kind == FormulaKind.Failed) return a;
        if (b.Kind is FormulaKind.Failed or FormulaKind.Empty) return b;
        if (a.Kind == FormulaKind.Empty) return a;
        if (how == '+' && (a.Kind == FormulaKind.Text || b.Kind == FormulaKind.Text)) return FormulaValue.Of(a.AsText + b.AsText);
        if (a.Kind == FormulaKind.Date && b.Kind == FormulaKind.Date && how == '-') return FormulaValue.Of(a.Number - b.Number);
        if (a.Kind == FormulaKind.Date && b.Kind == FormulaKind.Number && how is '+' or '-') return Day(how == '+' ? a.Number + b.Number : a.Number - b.Number);
        if (a.Kind != FormulaKind.Number || b.Kind != FormulaKind.Number) return FormulaValue.Failed($"“{a.AsText}” and “{b.AsText}” cannot be computed with {how}");
        if (how is '/' or '%' && b.Number == 0) return FormulaValue.Failed("it divides by zero");
        try
        {
            return FormulaValue.Of(how switch { '+' => a.Number + b.Number, '-' => a.Number - b.Number, '*' => a.Number * b.Number, '/' => a.Number / b.Number, _ => a.Number % b.Number });
        }
        catch (OverflowException)
        {
            return FormulaValue.Failed("the number becomes too large");
        }
    }

    internal static FormulaValue Day(decimal number) =>
        number < 0 || number > DateOnly.MaxValue.DayNumber ? FormulaValue.Failed("the date leaves the calendar") : new FormulaValue(FormulaKind.Date, decimal.Truncate(number), "");

    private static Part Comparing(Part left, Part right, Func<int, bool> holds) => (r, n) =>
    {
        FormulaValue a = left(r, n), b = right(r, n);
        if (a.Kind == FormulaKind.Failed) return a;
        if (b.Kind is FormulaKind.Failed or FormulaKind.Empty) return b;
        if (a.Kind == FormulaKind.Empty) return a;
        if (a.Kind != b.Kind)
        {
            // A date beside a text that reads as one, a yes/no beside “yes”: what people write.
            if (a.Kind == FormulaKind.Text || b.Kind == FormulaKind.Text) return FormulaValue.Of(holds(string.Compare(a.AsText, b.AsText, StringComparison.OrdinalIgnoreCase)));
            return FormulaValue.Failed($"“{a.AsText}” and “{b.AsText}” cannot be compared");
        }
        return FormulaValue.Of(holds(a.Kind == FormulaKind.Text ? string.Compare(a.Text, b.Text, StringComparison.OrdinalIgnoreCase) : a.Number.CompareTo(b.Number)));
    };
}
