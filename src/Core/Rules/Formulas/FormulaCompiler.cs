using ClearLexicon.Core.Fields;

namespace ClearLexicon.Core.Rules.Formulas;

/// <summary>Turns a formula's tree into delegates.</summary>
internal sealed class FormulaCompiler(TypeFields type)
{
    /// <summary>Longest text that a formula makes.</summary>
    internal const int LongestText = 100_000;

    private readonly List<string> _fields = [];

    public IReadOnlyList<string> Fields => _fields;

    public Part Compile(Node node)
    {
        switch (node)
        {
            case ConstantNode constant:
                var value = constant.Value;
                return (_, _) => value;
            case NameNode name:
                return Field(name);
            case SignedNode { Sign: FormulaToken.Plus } signed:
                return Compile(signed.Of);
            case SignedNode signed:
                return Signed(signed.Sign, Compile(signed.Of));
            case PairNode pair:
                return Pair(pair.Sign, Compile(pair.Left), Compile(pair.Right));
            case ChoiceNode choice:
                return If(Compile(choice.When), Compile(choice.Then), Compile(choice.Otherwise));
            default:
                return Call((CallNode)node);
        }
    }

    internal static Part If(Part when, Part then, Part otherwise) =>
        (r, n) =>
            when(r, n) switch
            {
                { Kind: FormulaKind.Truth } v => v.Number != 0 ? then(r, n) : otherwise(r, n),
                var other => other,
            };

    private static Part Signed(FormulaToken sign, Part of) =>
        sign == FormulaToken.Not
            ? (r, n) =>
                of(r, n) switch
                {
                    { Kind: FormulaKind.Truth } v => FormulaValue.Of(v.Number == 0),
                    { Kind: FormulaKind.Empty or FormulaKind.Failed } none => none,
                    _ => FormulaValue.Failed("“not” comes before something that is neither yes nor no"),
                }
            : (r, n) =>
                of(r, n) switch
                {
                    { Kind: FormulaKind.Number } v => v with { Number = -v.Number },
                    { Kind: FormulaKind.Empty or FormulaKind.Failed } none => none,
                    var other => FormulaValue.Failed($"“{other.AsText}” is not a number"),
                };

    private Part Call(CallNode call)
    {
        if (call.Name.ToUpperInvariant() is "SUM" or "COUNT" && call.With is [NameNode table])
            return Rows(call.Name, table);
        return FormulaFunctions.Make(call.Name, [.. call.With.Select(Compile)])
            ?? throw new FormulaException(FormulaFunctions.Finding(call.Name, call.With.Count), call.At);
    }

    private Part Rows(string function, NameNode table)
    {
        var name = table.Name;
        var dot = name.IndexOf('.');
        var key = Key(dot < 0 ? name : name[..dot], table.At);
        var (field, column) = type.PlaceOf(dot < 0 ? key : key + name[dot..]);
        if (field < 0 || type.Fields[field].Kind is { HasRows: false, IsMultiple: false })
            throw new FormulaException($"“{name}” is not a table.", table.At);
        _fields.Add(key);
        if (function.Equals("COUNT", StringComparison.OrdinalIgnoreCase))
            return (r, _) => FormulaValue.Of((decimal)(r[field].Rows.Length + r[field].Terms.Length));
        if (column < 0)
            throw new FormulaException($"“{name}” names no column of a table; write [table.column].", table.At);
        return (r, _) =>
        {
            var sum = 0m;
            foreach (var row in r[field].Rows)
                if (!Exact.TryAdd(sum, row[column].Number, out sum))
                    return FormulaValue.Failed(Exact.TooLarge);
            return FormulaValue.Of(sum);
        };
    }

    private string Key(string name, int at) =>
        type.Find(name)?.Key
        ?? type.Fields.FirstOrDefault(f => string.Equals(f.Label, name, StringComparison.OrdinalIgnoreCase))?.Key
        ?? throw new FormulaException($"there is no field “{name}”.", at);

    private Part Field(NameNode node)
    {
        var key = Key(node.Name, node.At);
        var at = type.OrdinalOf(key);
        if (!_fields.Contains(key, StringComparer.Ordinal))
            _fields.Add(key);
        if (type.Fields[at].Kind.HasRows)
            throw new FormulaException($"“{node.Name}” is a table; write Sum([{key}.column]) or Count([{key}]).", node.At);
        return type.Fields[at].Kind.Measure switch
        {
            Measure.Day => (r, _) => r[at].IsGood ? FormulaValue.Of(r[at].Date) : FormulaValue.Empty,
            Measure.Truth => (r, _) => r[at].IsGood ? FormulaValue.Of(r[at].Number == 1) : FormulaValue.Empty,
            _ when type.Fields[at].Kind is { IsOrdered: true, Unit: var unit } => (r, _) =>
                r[at].IsGood ? FormulaValue.Of(r[at].Number / unit) : FormulaValue.Empty,
            _ => (r, _) => r[at].IsGood ? FormulaValue.Of(r[at].Text) : FormulaValue.Empty,
        };
    }

    private static Part Pair(FormulaToken sign, Part left, Part right) =>
        sign switch
        {
            // What the left side decides alone is not asked of the right one.
            FormulaToken.And => (r, n) =>
                left(r, n) is var a && a is { Kind: FormulaKind.Truth, Number: 0 } or { Kind: FormulaKind.Failed }
                    ? a
                    : Both(a, right(r, n)),
            FormulaToken.Or => (r, n) =>
                left(r, n) is var a && a is { IsTrue: true } or { Kind: FormulaKind.Failed } ? a : Either(a, right(r, n)),
            FormulaToken.Equal => Comparing(left, right, static o => o == 0),
            FormulaToken.NotEqual => Comparing(left, right, static o => o != 0),
            FormulaToken.Below => Comparing(left, right, static o => o < 0),
            FormulaToken.AtMost => Comparing(left, right, static o => o <= 0),
            FormulaToken.Above => Comparing(left, right, static o => o > 0),
            FormulaToken.AtLeast => Comparing(left, right, static o => o >= 0),
            _ => (r, n) => Arithmetic(left(r, n), right(r, n), sign),
        };

    private static FormulaValue Both(in FormulaValue a, in FormulaValue b) =>
        b.Kind == FormulaKind.Failed || b is { Kind: FormulaKind.Truth, Number: 0 } ? b
        : a.Kind == FormulaKind.Empty || b.Kind == FormulaKind.Empty ? FormulaValue.Empty
        : FormulaValue.Of(a.IsTrue && b.IsTrue);

    private static FormulaValue Either(in FormulaValue a, in FormulaValue b) =>
        b.Kind == FormulaKind.Failed || b.IsTrue ? b
        : a.Kind == FormulaKind.Empty || b.Kind == FormulaKind.Empty ? FormulaValue.Empty
        : FormulaValue.Of(false);

    private static FormulaValue Arithmetic(in FormulaValue a, in FormulaValue b, FormulaToken how)
    {
        if (a.Kind == FormulaKind.Failed)
            return a;
        if (b.Kind is FormulaKind.Failed or FormulaKind.Empty)
            return b;
        if (a.Kind == FormulaKind.Empty)
            return a;
        if (how == FormulaToken.Plus && (a.Kind == FormulaKind.Text || b.Kind == FormulaKind.Text))
            return a.AsText.Length + b.AsText.Length > LongestText
                ? FormulaValue.Failed("the text becomes too long")
                : FormulaValue.Of(a.AsText + b.AsText);
        if (a.Kind == FormulaKind.Date && b.Kind == FormulaKind.Date && how == FormulaToken.Minus)
            return FormulaValue.Of(a.Number - b.Number);
        if (a.Kind == FormulaKind.Date && b.Kind == FormulaKind.Number && how is FormulaToken.Plus or FormulaToken.Minus)
            return Exact.TryAdd(a.Number, how == FormulaToken.Plus ? b.Number : -b.Number, out var day) ? Day(day) : Day(-1);
        if (a.Kind != FormulaKind.Number || b.Kind != FormulaKind.Number)
            return FormulaValue.Failed($"“{a.AsText}” and “{b.AsText}” cannot be computed with {Sign(how)}");
        if (how is FormulaToken.Divide or FormulaToken.Remainder && b.Number == 0)
            return FormulaValue.Failed("it divides by zero");
        var number = 0m;
        var good = how switch
        {
            FormulaToken.Plus => Exact.TryAdd(a.Number, b.Number, out number),
            FormulaToken.Minus => Exact.TryAdd(a.Number, -b.Number, out number),
            FormulaToken.Times => Exact.TryMultiply(a.Number, b.Number, out number),
            FormulaToken.Divide => Exact.TryDivide(a.Number, b.Number, out number),
            _ => Exact.TryRemainder(a.Number, b.Number, out number),
        };
        return good ? FormulaValue.Of(number) : FormulaValue.Failed(Exact.TooLarge);
    }

    private static char Sign(FormulaToken how) =>
        how switch
        {
            FormulaToken.Plus => '+',
            FormulaToken.Minus => '-',
            FormulaToken.Times => '*',
            FormulaToken.Divide => '/',
            _ => '%',
        };

    internal static FormulaValue Day(decimal number) =>
        number < 0 || number > DateOnly.MaxValue.DayNumber
            ? FormulaValue.Failed("the date is outside the calendar")
            : new FormulaValue(FormulaKind.Date, decimal.Truncate(number), "");

    private static Part Comparing(Part left, Part right, Func<int, bool> holds) =>
        (r, n) =>
        {
            FormulaValue a = left(r, n),
                b = right(r, n);
            if (a.Kind == FormulaKind.Failed)
                return a;
            if (b.Kind is FormulaKind.Failed or FormulaKind.Empty)
                return b;
            if (a.Kind == FormulaKind.Empty)
                return a;
            if (a.Kind != b.Kind)
            {
                // A date beside a text that reads as one, a yes/no beside “yes”: what people write.
                if (a.Kind == FormulaKind.Text || b.Kind == FormulaKind.Text)
                    return FormulaValue.Of(holds(string.Compare(a.AsText, b.AsText, StringComparison.OrdinalIgnoreCase)));
                return FormulaValue.Failed($"“{a.AsText}” and “{b.AsText}” cannot be compared");
            }
            return FormulaValue.Of(
                holds(
                    a.Kind == FormulaKind.Text
                        ? string.Compare(a.Text, b.Text, StringComparison.OrdinalIgnoreCase)
                        : a.Number.CompareTo(b.Number)
                )
            );
        };
}
