using System.Globalization;
using ClearLexicon.Core.Fields;
using ClearLexicon.Core.Fields.CheckDigits;
using Superpower;
using Superpower.Model;
using Superpower.Parsers;
using Superpower.Tokenizers;

namespace ClearLexicon.Core.Rules.Formulas;

/// <summary>A part of a formula as it was written.</summary>
/// <param name="At">Where it begins, from 0.</param>
internal abstract record Node(int At);

/// <summary>A number, text, or true and false.</summary>
internal sealed record ConstantNode(int At, FormulaValue Value) : Node(At);

/// <summary>A field, by key or label.</summary>
internal sealed record NameNode(int At, string Name) : Node(At);

/// <summary>A sign before one value: <c>-</c>, <c>+</c> or <c>not</c>.</summary>
internal sealed record SignedNode(int At, FormulaToken Sign, Node Of) : Node(At);

/// <summary>A sign between two values.</summary>
internal sealed record PairNode(int At, FormulaToken Sign, Node Left, Node Right) : Node(At);

/// <summary>One of two values by a condition.</summary>
internal sealed record ChoiceNode(int At, Node When, Node Then, Node Otherwise) : Node(At);

/// <summary>A function with its values.</summary>
internal sealed record CallNode(int At, string Name, IReadOnlyList<Node> With) : Node(At);

/// <summary>The signs and words of formulas.</summary>
internal enum FormulaToken
{
    Number,
    Text,
    Field,
    Word,
    Open,
    Close,
    Comma,
    Question,
    Colon,
    Plus,
    Minus,
    Times,
    Divide,
    Remainder,
    Equal,
    NotEqual,
    Below,
    AtMost,
    Above,
    AtLeast,
    And,
    Or,
    Not,
}

/// <summary>
/// Reads formulas: from loosest to tightest <c>? :</c>, or, and, not, comparisons, <c>+ -</c>, <c>* / %</c>, a sign before a value.
/// </summary>
internal static class FormulaGrammar
{
    /// <summary>Deepest nesting of brackets, choices and signs.</summary>
    public const int Deepest = 40;

    private static readonly TextParser<TextSpan> Quoted = Span.MatchedBy(
        Character
            .EqualTo('\'')
            .IgnoreThen(Character.EqualTo('\\').IgnoreThen(Character.AnyChar).Or(Character.ExceptIn('\'', '\\')).IgnoreMany())
            .IgnoreThen(Character.EqualTo('\''))
    );

    private static readonly TextParser<TextSpan> Digits = Span.MatchedBy(
        Character
            .Digit.AtLeastOnce()
            .IgnoreThen(Character.EqualTo('.').IgnoreThen(Character.Digit.AtLeastOnce()).Value('0').OptionalOrDefault())
    );

    private static readonly Tokenizer<FormulaToken> Tokens = new TokenizerBuilder<FormulaToken>()
        .Ignore(Span.WhiteSpace)
        .Match(Quoted, FormulaToken.Text)
        .Match(
            Span.MatchedBy(Character.EqualTo('[').IgnoreThen(Character.Except(']').IgnoreMany()).IgnoreThen(Character.EqualTo(']'))),
            FormulaToken.Field
        )
        .Match(Digits, FormulaToken.Number)
        .Match(Span.EqualTo("&&"), FormulaToken.And)
        .Match(Span.EqualTo("||"), FormulaToken.Or)
        .Match(Span.EqualTo("!="), FormulaToken.NotEqual)
        .Match(Span.EqualTo("<>"), FormulaToken.NotEqual)
        .Match(Span.EqualTo("<="), FormulaToken.AtMost)
        .Match(Span.EqualTo(">="), FormulaToken.AtLeast)
        .Match(Span.EqualTo("=="), FormulaToken.Equal)
        .Match(Character.EqualTo('='), FormulaToken.Equal)
        .Match(Character.EqualTo('<'), FormulaToken.Below)
        .Match(Character.EqualTo('>'), FormulaToken.Above)
        .Match(Character.EqualTo('+'), FormulaToken.Plus)
        .Match(Character.In('-', '−'), FormulaToken.Minus)
        .Match(Character.In('*', '×'), FormulaToken.Times)
        .Match(Character.EqualTo('/'), FormulaToken.Divide)
        .Match(Character.EqualTo('%'), FormulaToken.Remainder)
        .Match(Character.EqualTo('!'), FormulaToken.Not)
        .Match(Character.EqualTo('('), FormulaToken.Open)
        .Match(Character.EqualTo(')'), FormulaToken.Close)
        .Match(Character.EqualTo(','), FormulaToken.Comma)
        .Match(Character.EqualTo('?'), FormulaToken.Question)
        .Match(Character.EqualTo(':'), FormulaToken.Colon)
        .Match(Span.EqualToIgnoreCase("and"), FormulaToken.And, requireDelimiters: true)
        .Match(Span.EqualToIgnoreCase("or"), FormulaToken.Or, requireDelimiters: true)
        .Match(Span.EqualToIgnoreCase("not"), FormulaToken.Not, requireDelimiters: true)
        .Match(
            Span.MatchedBy(
                Character.Letter.Or(Character.EqualTo('_')).IgnoreThen(Character.LetterOrDigit.Or(Character.EqualTo('_')).IgnoreMany())
            ),
            FormulaToken.Word,
            requireDelimiters: true
        )
        .Build();

    private sealed record Branches(Node Then, Node Otherwise);

    private static readonly Branches NoBranches = new(new ConstantNode(0, FormulaValue.Empty), new ConstantNode(0, FormulaValue.Empty));

    // What a word is followed by when it is no function.
    private static readonly Node[] None = [new ConstantNode(0, FormulaValue.Empty)];

    private static readonly TokenListParser<FormulaToken, Node> Primary = Token
        .EqualTo(FormulaToken.Number)
        .Select(static t => Number(t))
        .Or(
            Token
                .EqualTo(FormulaToken.Text)
                .Select(static t =>
                    (Node)new ConstantNode(t.Position.Absolute, new FormulaValue(FormulaKind.Text, 0, Unquoted(t.ToStringValue())))
                )
        )
        .Or(
            Token
                .EqualTo(FormulaToken.Field)
                .Select(static t => (Node)new NameNode(t.Position.Absolute + 1, t.ToStringValue()[1..^1].Trim()))
        )
        .Or(
            from word in Token.EqualTo(FormulaToken.Word)
            from with in Parse.Ref(static () => Values!).OptionalOrDefault(None)
            select ReferenceEquals(with, None) ? Word(word) : new CallNode(word.Position.Absolute, word.ToStringValue(), with)
        )
        .Or(
            from open in Token.EqualTo(FormulaToken.Open)
            from inside in Parse.Ref(static () => Whole!)
            from close in Token.EqualTo(FormulaToken.Close)
            select inside
        );

    private static readonly TokenListParser<FormulaToken, Node[]> Values =
        from open in Token.EqualTo(FormulaToken.Open)
        from with in Parse.Ref(static () => Whole!).ManyDelimitedBy(Token.EqualTo(FormulaToken.Comma))
        from close in Token.EqualTo(FormulaToken.Close)
        select with;

    private static readonly TokenListParser<FormulaToken, Node> Signed = (
        from sign in Token.EqualTo(FormulaToken.Minus).Or(Token.EqualTo(FormulaToken.Plus)).Or(Token.EqualTo(FormulaToken.Not))
        from of in Parse.Ref(static () => Signed!)
        select (Node)new SignedNode(sign.Position.Absolute, sign.Kind, of)
    ).Or(Parse.Ref(static () => Primary!));

    private static readonly TokenListParser<FormulaToken, Node> Products = Chain(
        [FormulaToken.Times, FormulaToken.Divide, FormulaToken.Remainder],
        Signed
    );

    private static readonly TokenListParser<FormulaToken, Node> Sums = Chain([FormulaToken.Plus, FormulaToken.Minus], Products);

    private static readonly TokenListParser<FormulaToken, Node> Compared = Chain(
        [FormulaToken.Equal, FormulaToken.NotEqual, FormulaToken.Below, FormulaToken.AtMost, FormulaToken.Above, FormulaToken.AtLeast],
        Sums
    );

    private static readonly TokenListParser<FormulaToken, Node> Denied = (
        from not in Token.EqualTo(FormulaToken.Not)
        from of in Parse.Ref(static () => Denied!)
        select (Node)new SignedNode(not.Position.Absolute, FormulaToken.Not, of)
    ).Or(Compared);

    private static readonly TokenListParser<FormulaToken, Node> Both = Chain([FormulaToken.And], Denied);

    private static readonly TokenListParser<FormulaToken, Node> Either = Chain([FormulaToken.Or], Both);

    private static readonly TokenListParser<FormulaToken, Node> Whole =
        from value in Either
        from choice in (
            from question in Token.EqualTo(FormulaToken.Question)
            from then in Parse.Ref(static () => Whole!)
            from colon in Token.EqualTo(FormulaToken.Colon)
            from otherwise in Parse.Ref(static () => Whole!)
            select new Branches(then, otherwise)
        ).OptionalOrDefault(NoBranches)
        select ReferenceEquals(choice, NoBranches) ? value : new ChoiceNode(value.At, value, choice.Then, choice.Otherwise);

    private static readonly TokenListParser<FormulaToken, Node> Formula = Whole.AtEnd();

    /// <summary>Reads a formula.</summary>
    /// <exception cref="FormulaException">It cannot be read; says where and why.</exception>
    public static Node Read(string text)
    {
        var tokens = Tokens.TryTokenize(text);
        if (!tokens.HasValue)
        {
            var at = tokens.ErrorPosition.HasValue ? tokens.ErrorPosition.Absolute : text.Length;
            // An open quote or bracket is found where it begins or where the text ends; the beginning says more.
            if (Unclosed(text) is { } open)
                throw new FormulaException(
                    text[open] == '\'' ? "the text that begins there is not closed." : "the bracket that begins there is not closed.",
                    open
                );
            throw new FormulaException(at < text.Length ? $"“{text[at]}” means nothing here." : "it ends too soon.", at);
        }
        if (TooDeep(tokens.Value))
            throw new FormulaException($"it is nested more than {Deepest} deep.", -1);
        var read = Formula(tokens.Value);
        if (read.HasValue)
            return read.Value;
        var rest = read.Remainder.IsAtEnd ? (Token<FormulaToken>?)null : read.Remainder.First();
        var position = read.ErrorPosition.HasValue ? read.ErrorPosition.Absolute : rest?.Position.Absolute ?? text.Length;
        throw new FormulaException(
            position < text.Length
                ? $"“{Shown(text, position)}” cannot be used here."
                : "it ends too soon; a value or a closing bracket is missing.",
            position
        );
    }

    private static string Shown(string text, int at)
    {
        var end = at + 1;
        while (end < text.Length && char.IsLetterOrDigit(text[at]) && char.IsLetterOrDigit(text[end]))
            end++;
        return text[at..end];
    }

    private static int? Unclosed(string text)
    {
        int? open = null;
        for (var i = 0; i < text.Length; i++)
        {
            if (open is { } from)
            {
                if (text[from] == '\'' && text[i] == '\\')
                    i++;
                else if (text[i] == (text[from] == '\'' ? '\'' : ']'))
                    open = null;
            }
            else if (text[i] is '\'' or '[')
                open = i;
        }
        return open;
    }

    // The grammar goes one step down a bracket, a choice or a sign; so many are enough for anything that a person reads.
    private static bool TooDeep(TokenList<FormulaToken> tokens)
    {
        int depth = 0,
            choices = 0,
            signs = 0;
        foreach (var token in tokens)
        {
            depth += token.Kind switch
            {
                FormulaToken.Open => 1,
                FormulaToken.Close => -1,
                _ => 0,
            };
            if (token.Kind == FormulaToken.Question)
                choices++;
            signs = token.Kind is FormulaToken.Minus or FormulaToken.Plus or FormulaToken.Not ? signs + 1 : 0;
            if (depth + signs > Deepest || choices > Deepest)
                return true;
        }
        return false;
    }

    private static TokenListParser<FormulaToken, Node> Chain(FormulaToken[] signs, TokenListParser<FormulaToken, Node> of) =>
        Parse.Chain(
            Token.Matching<FormulaToken>(k => signs.Contains(k), "a sign"),
            of,
            static (sign, left, right) => new PairNode(sign.Position.Absolute, sign.Kind, left, right)
        );

    private static Node Number(Token<FormulaToken> token) =>
        decimal.TryParse(token.ToStringValue(), NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number)
            ? new ConstantNode(token.Position.Absolute, FormulaValue.Of(number))
            : throw new FormulaException("this number is too large.", token.Position.Absolute);

    private static Node Word(Token<FormulaToken> token) =>
        token.ToStringValue().ToUpperInvariant() switch
        {
            "TRUE" => new ConstantNode(token.Position.Absolute, FormulaValue.Of(true)),
            "FALSE" => new ConstantNode(token.Position.Absolute, FormulaValue.Of(false)),
            _ => new NameNode(token.Position.Absolute, token.ToStringValue()),
        };

    private static string Unquoted(string text)
    {
        var inside = text.AsSpan(1, text.Length - 2);
        if (!inside.Contains('\\'))
            return inside.ToString();
        var plain = new System.Text.StringBuilder(inside.Length);
        for (var i = 0; i < inside.Length; i++)
            plain.Append(inside[i] == '\\' && i + 1 < inside.Length ? inside[++i] : inside[i]);
        return plain.ToString();
    }
}
