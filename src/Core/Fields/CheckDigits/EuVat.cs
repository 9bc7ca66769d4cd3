using ClearLexicon.Core.Vocabularies;

namespace ClearLexicon.Core.Fields.CheckDigits;

/// <summary>
/// VAT identification numbers of the European Union (Council Directive 2006/112/EC, article 215) and of Northern Ireland (XI): two letters
/// for the country and a national part, whose check digits each country publishes with its number. Whether a number was ever given out is
/// not looked at; nor are the kinds of business that a digit may tell (Italy's office, Slovakia's third digit), but for dates of birth
/// where they
/// are the only check (Czechia, nine digits).
/// </summary>
internal static class EuVat
{
    public static CheckScheme Scheme { get; } =
        new("eu-vat", "EU VAT number", "Council Directive 2006/112/EC, art. 215", "LU15027442", false, Check);

    private static readonly Dictionary<string, Func<string, CheckProblem?>> Countries = new(StringComparer.Ordinal)
    {
        ["AT"] = static n =>
            n.Length > 0 && n[0] != 'U' ? Strange(n, 0)
            : n.Length == 0 ? Digits.Length("9", 0)
            : Digits.Only(n.AsSpan(1), 8) ?? Digits.Last(n, Austria(n.AsSpan(1))),
        ["BE"] = static n => Digits.Only(n, 10) ?? (n[0] is '0' or '1' ? Ends(n, 97 - int.Parse(n.AsSpan(0, 8)) % 97) : Strange(n, 0)),
        ["BG"] = Bulgaria,
        ["CY"] = static n =>
            n.Length != 9
                ? Digits.Length("9", n.Length)
                : Digits.Only(n.AsSpan(0, 8), 8)
                    ?? (n.StartsWith("12", StringComparison.Ordinal) ? Strange(n, 0) : Digits.Last(n, Cyprus(n))),
        ["CZ"] = Czechia,
        ["DE"] = static n => Digits.Only(n, 9) ?? NotZero(n) ?? Digits.Last(n, Iso7064.Mod11_10(n.AsSpan(0, 8))),
        ["DK"] = static n => Digits.Only(n, 8) ?? NotZero(n) ?? Digits.Last(n, Complement11(n, [2, 7, 6, 5, 4, 3, 2])),
        ["EE"] = static n => Digits.Only(n, 9) ?? Digits.Last(n, (10 - Digits.Weighted(n, [3, 7, 1, 3, 7, 1, 3, 7]) % 10) % 10),
        ["EL"] = static n => Digits.Only(n, 9) ?? Digits.Last(n, Digits.Weighted(n, [256, 128, 64, 32, 16, 8, 4, 2]) % 11 % 10),
        ["ES"] = Spain,
        ["FI"] = static n => Digits.Only(n, 8) ?? Digits.Last(n, Complement11(n, [7, 9, 10, 5, 8, 4, 2])),
        ["FR"] = France,
        ["HR"] = static n => Digits.Only(n, 11) ?? Digits.Last(n, Iso7064.Mod11_10(n.AsSpan(0, 10))),
        ["HU"] = static n => Digits.Only(n, 8) ?? Digits.Last(n, (10 - Digits.Weighted(n, [9, 7, 3, 1, 9, 7, 3]) % 10) % 10),
        ["IE"] = Ireland,
        ["IT"] = static n => Digits.Only(n, 11) ?? Digits.Last(n, Digits.Luhn(n.AsSpan(0, 10))),
        ["LT"] = Lithuania,
        ["LU"] = static n => Digits.Only(n, 8) ?? Ends(n, int.Parse(n.AsSpan(0, 6)) % 89),
        ["LV"] = Latvia,
        ["MT"] = static n => Digits.Only(n, 8) ?? NotZero(n) ?? Ends(n, 37 - Digits.Weighted(n, [3, 4, 6, 7, 8, 9]) % 37),
        ["NL"] = Netherlands,
        ["PL"] = static n => Digits.Only(n, 10) ?? Digits.Last(n, Digits.Weighted(n, [6, 5, 7, 2, 3, 4, 5, 6, 7]) % 11),
        ["PT"] = static n => Digits.Only(n, 9) ?? NotZero(n) ?? Digits.Last(n, Complement11(n, [9, 8, 7, 6, 5, 4, 3, 2]) % 10),
        ["RO"] = static n =>
            n.Length is < 2 or > 10
                ? Digits.Length("2–10", n.Length)
                : Digits.Only(n, n.Length)
                    ?? NotZero(n)
                    ?? Digits.Last(n, Digits.Weighted(n[..^1].PadLeft(9, '0'), [7, 5, 3, 2, 1, 7, 5, 3, 2]) * 10 % 11 % 10),
        ["SE"] = static n =>
            Digits.Only(n, 12)
            ?? (n.EndsWith("01", StringComparison.Ordinal) ? null : Strange(n, n[10] == '0' ? 11 : 10))
            ?? Digits.Last(n.AsSpan(0, 10), Digits.Luhn(n.AsSpan(0, 9))),
        ["SI"] = Slovenia,
        ["SK"] = static n => Digits.Only(n, 10) ?? NotZero(n) ?? (long.Parse(n) % 11 == 0 ? null : Slovakia(n)),
        ["XI"] = NorthernIreland,
    };

    /// <summary>Countries whose check digits are known.</summary>
    public static IReadOnlyCollection<string> Known => Countries.Keys;

    private static CheckProblem? Check(string text)
    {
        for (var i = 0; i < text.Length; i++)
            if (
                !char.IsAsciiDigit(text[i])
                && !char.IsAsciiLetterUpper(text[i])
                && !(text[i] is '+' or '*' && i == 3 && text.StartsWith("IE", StringComparison.Ordinal))
            )
                return new CheckProblem.Character(CodePoints.At(text, i), i + 1);
        if (text.Length < 4)
            return Digits.Length("4–14", text.Length);
        return Countries.TryGetValue(text[..2], out var check) ? check(text[2..]) : new CheckProblem.Country(text[..2]);
    }

    // Places are counted in the whole number, behind the letters of the country.
    private static CheckProblem Strange(string national, int at) => new CheckProblem.Character(CodePoints.At(national, at), at + 3);

    private static CheckProblem? NotZero(string national) => national[0] == '0' ? Strange(national, 0) : null;

    private static CheckProblem? Ends(string text, int expected) =>
        text.AsSpan(text.Length - 2).SequenceEqual(expected.ToString("00")) ? null : new CheckProblem.Digit(expected.ToString("00"));

    private static int Complement11(string digits, ReadOnlySpan<int> weights) => (11 - Digits.Weighted(digits, weights) % 11) % 11;

    private static int Austria(ReadOnlySpan<char> digits)
    {
        var sum = 4;
        for (var i = 0; i < 7; i++)
        {
            var d = digits[i] - '0';
            sum += i % 2 == 0 ? d : d * 2 / 10 + d * 2 % 10;
        }
        return (10 - sum % 10) % 10;
    }

    // Nine digits for firms; ten for persons: citizens, foreigners or others, each with weights of their own.
    private static CheckProblem? Bulgaria(string n)
    {
        if (n.Length is not (9 or 10))
            return Digits.Length("9–10", n.Length);
        if (Digits.Only(n, n.Length) is { } strange)
            return strange.Further(2);
        if (n.Length == 9)
        {
            var check = Digits.Weighted(n, [1, 2, 3, 4, 5, 6, 7, 8]) % 11;
            if (check == 10)
                check = Digits.Weighted(n, [3, 4, 5, 6, 7, 8, 9, 10]) % 11 % 10;
            return Digits.Last(n, check);
        }
        int citizen = Digits.Weighted(n, [2, 4, 8, 5, 10, 9, 7, 3, 6]) % 11 % 10,
            foreigner = Digits.Weighted(n, [21, 19, 17, 13, 11, 9, 7, 3, 1]) % 10,
            other = Complement11(n, [4, 3, 2, 7, 6, 5, 4, 3, 2]);
        var last = n[9] - '0';
        return last == citizen && BulgarianDate(n) || last == foreigner || last == other
            ? null
            : new CheckProblem.Digit(citizen.ToString());
    }

    // Year, month and day; 20 more in the month is the nineteenth century, 40 more the twenty-first.
    private static bool BulgarianDate(string n)
    {
        int year = int.Parse(n.AsSpan(0, 2)),
            month = int.Parse(n.AsSpan(2, 2)),
            day = int.Parse(n.AsSpan(4, 2));
        (year, month) =
            month > 40 ? (2000 + year, month - 40)
            : month > 20 ? (1800 + year, month - 20)
            : (1900 + year, month);
        return month is >= 1 and <= 12 && day >= 1 && day <= DateTime.DaysInMonth(year, month);
    }

    private static char Cyprus(string digits)
    {
        ReadOnlySpan<int> odd = [1, 0, 5, 7, 9, 13, 15, 17, 19, 21];
        var sum = 0;
        for (var i = 0; i < 8; i++)
            sum += i % 2 == 0 ? odd[digits[i] - '0'] : digits[i] - '0';
        return (char)('A' + sum % 26);
    }

    // Eight digits for firms, nine beginning with 6 for persons without a birth number, nine or ten for those with one.
    private static CheckProblem? Czechia(string n)
    {
        if (n.Length is < 8 or > 10)
            return Digits.Length("8–10", n.Length);
        if (Digits.Only(n, n.Length) is { } strange)
            return strange.Further(2);
        if (n.Length == 8)
            return n[0] == '9'
                ? Strange(n, 0)
                : Digits.Last(
                    n,
                    (11 - Digits.Weighted(n, [8, 7, 6, 5, 4, 3, 2]) % 11) switch
                    {
                        10 => 0,
                        11 => 1,
                        var c => c,
                    }
                );
        if (n.Length == 9 && n[0] == '6')
        {
            var check = Digits.Weighted(n.AsSpan(1), [8, 7, 6, 5, 4, 3, 2]) % 11;
            return Digits.Last(n, (8 - (10 - check) % 11 + 10) % 10);
        }
        if (!BirthNumber(n))
            return new CheckProblem.BirthDate(n[..6]);
        if (n.Length == 9)
            return null;
        // Until 1985 a remainder of ten was written 0; since then such numbers are not given out.
        var expected = int.Parse(n.AsSpan(0, 9)) % 11;
        var before = int.Parse(n.AsSpan(0, 2)) is >= 54 and < 85;
        return expected == 10 && !before ? new CheckProblem.Digit("another number") : Digits.Last(n, expected % 10);
    }

    // Year, month and day; women's months are 50 higher, and 20 higher where a day's numbers were used up.
    private static bool BirthNumber(string n)
    {
        int year = 1900 + int.Parse(n.AsSpan(0, 2)),
            month = int.Parse(n.AsSpan(2, 2)) % 50 % 20,
            day = int.Parse(n.AsSpan(4, 2));
        if (n.Length == 9)
        {
            if (year >= 1980)
                year -= 100;
            if (year > 1953)
                return false;
        }
        else if (year < 1954)
            year += 100;
        return month is >= 1 and <= 12 && day >= 1 && day <= DateTime.DaysInMonth(year, month);
    }

    private const string IrishLetters = "WABCDEFGHIJKLMNOPQRSTUV";

    // Seven digits with a letter, perhaps another one; before 2013 also a digit, a letter or sign, five digits and a letter.
    private static CheckProblem? Ireland(string n)
    {
        if (n.Length is not (8 or 9))
            return Digits.Length("8–9", n.Length);
        if (!char.IsAsciiDigit(n[0]))
            return Strange(n, 0);
        for (var i = 2; i < 7; i++)
            if (!char.IsAsciiDigit(n[i]))
                return Strange(n, i);
        var old = !char.IsAsciiDigit(n[1]);
        for (var i = 7; i < n.Length; i++)
            if (!IrishLetters.Contains(n[i]))
                return Strange(n, i);
        var extra = n.Length == 9 ? IrishLetters.IndexOf(n[8]) : 0;
        if (old && n.Length == 9)
            return Digits.Length("8", n.Length);
        var digits = old ? $"0{n[2..7]}{n[0]}" : n[..7];
        var expected = IrishLetters[(Digits.Weighted(digits, [8, 7, 6, 5, 4, 3, 2]) + extra * 9) % 23];
        return n[7] == expected ? null : new CheckProblem.Digit(expected.ToString());
    }

    // Nine digits for firms; twelve for those who are registered for a time. The last digit but one is always 1.
    private static CheckProblem? Lithuania(string n)
    {
        if (n.Length is not (9 or 12))
            return Digits.Length("9 or 12", n.Length);
        if (Digits.Only(n, n.Length) is { } strange)
            return strange.Further(2);
        if (n[^2] != '1')
            return Strange(n, n.Length - 2);
        int first = 0,
            second = 0;
        for (var i = 0; i < n.Length - 1; i++)
        {
            first += (1 + i % 9) * (n[i] - '0');
            second += (1 + (i + 2) % 9) * (n[i] - '0');
        }
        return Digits.Last(n, first % 11 < 10 ? first % 11 : second % 11 % 10);
    }

    // Firms begin with 4 to 9; persons have their personal code, which tells a date unless it begins with 32.
    private static CheckProblem? Latvia(string n)
    {
        if (Digits.Only(n, 11) is { } strange)
            return strange.Further(2);
        if (n[0] > '3')
        {
            var sum = Digits.Weighted(n, [9, 1, 4, 8, 3, 10, 2, 5, 7, 6]);
            for (var d = 0; d < 10; d++)
                if ((sum + d) % 11 == 3)
                    return Digits.Last(n, d);
            return new CheckProblem.Digit("another number");
        }
        if (!n.StartsWith("32", StringComparison.Ordinal) && !LatvianDate(n))
            return new CheckProblem.BirthDate(n[..6]);
        return Digits.Last(n, (1 + Digits.Weighted(n, [10, 5, 8, 4, 2, 1, 6, 3, 7, 9])) % 11 % 10);
    }

    private static bool LatvianDate(string n)
    {
        int day = int.Parse(n.AsSpan(0, 2)),
            month = int.Parse(n.AsSpan(2, 2)),
            year = 1800 + (n[6] - '0') * 100 + int.Parse(n.AsSpan(4, 2));
        return month is >= 1 and <= 12 && day >= 1 && day <= DateTime.DaysInMonth(year, month);
    }

    // A sum that leaves 1 (check digit 10) stands for 0; one that leaves 0 (check digit 11) is not given out.
    private static CheckProblem? Slovenia(string n)
    {
        if ((Digits.Only(n, 8) ?? NotZero(n)) is { } problem)
            return problem;
        var check = 11 - Digits.Weighted(n, [8, 7, 6, 5, 4, 3, 2]) % 11;
        return check == 11 ? new CheckProblem.Digit("another number") : Digits.Last(n, check % 10);
    }

    private static CheckProblem? Slovakia(string n)
    {
        for (var d = 0; d < 10; d++)
            if (long.Parse(n[..^1] + d) % 11 == 0)
                return new CheckProblem.Digit(d.ToString());
        return new CheckProblem.Digit("another number");
    }

    private const string FrenchLetters = "0123456789ABCDEFGHJKLMNPQRSTUVWXYZ";

    // Two characters of a key and the SIREN; Monaco's numbers begin with 000 and are no SIREN. A key of two digits is computed from the
    // number, one with letters the other way round: the number and the key leave the same by 11.
    private static CheckProblem? France(string n)
    {
        if (n.Length != 11)
            return Digits.Length("11", n.Length);
        for (var i = 0; i < 2; i++)
            if (!FrenchLetters.Contains(n[i]))
                return Strange(n, i);
        if (Digits.Only(n.AsSpan(2), 9) is { } strange)
            return strange.Further(4);
        if (!n.AsSpan(2).StartsWith("000") && Digits.Last(n, Digits.Luhn(n.AsSpan(2, 8))) is { } siren)
            return siren;
        var number = int.Parse(n.AsSpan(2));
        if (char.IsAsciiDigit(n[0]) && char.IsAsciiDigit(n[1]))
        {
            var key = (12 + 3 * (number % 97)) % 97;
            return n.AsSpan(0, 2).SequenceEqual(key.ToString("00")) ? null : new CheckProblem.Digit(key.ToString("00"));
        }
        int first = FrenchLetters.IndexOf(n[0]),
            second = FrenchLetters.IndexOf(n[1]);
        var value = char.IsAsciiDigit(n[0]) ? first * 24 + second - 10 : first * 34 + second - 100;
        return (number % 11 + 1 + value / 11 % 11) % 11 == value % 11 ? null : new CheckProblem.Digit("another key");
    }

    private static CheckProblem? Netherlands(string n)
    {
        if (n.Length != 12)
            return Digits.Length("12", n.Length);
        if (Digits.Only(n.AsSpan(0, 9), 9) is { } strange)
            return strange.Further(2);
        if (n[9] != 'B')
            return Strange(n, 9);
        for (var i = 10; i < 12; i++)
            if (!char.IsAsciiDigit(n[i]))
                return Strange(n, i);
        if (n.EndsWith("00", StringComparison.Ordinal))
            return Strange(n, 11);
        if (Digits.Mod97("NL" + n) == 1)
            return null;
        var expected = Digits.Weighted(n, [9, 8, 7, 6, 5, 4, 3, 2]) % 11;
        return n[8] - '0' == expected ? null : new CheckProblem.Digit(expected == 10 ? "another number" : expected.ToString());
    }

    // Firms begin with a letter and end with a digit or a letter; K, L and M are persons, whose letter is that of residents.
    private static CheckProblem? Spain(string n)
    {
        if (n.Length != 9)
            return Digits.Length("9", n.Length);
        if (Digits.Only(n.AsSpan(1, 7), 7) is { } strange)
            return strange.Further(3);
        if (char.IsAsciiDigit(n[0]) || n[0] is 'X' or 'Y' or 'Z' or 'K' or 'L' or 'M')
        {
            var first =
                char.IsAsciiDigit(n[0]) ? n[0]
                : n[0] is 'X' or 'Y' or 'Z' ? (char)('0' + n[0] - 'X')
                : '0';
            return Digits.Last(n, "TRWAGMYFPDXBNJZSQVHLCKE"[int.Parse(first + n[1..8]) % 23]);
        }
        if (!"ABCDEFGHJNPQRSUVW".Contains(n[0]))
            return Strange(n, 0);
        var control = Digits.Luhn(n.AsSpan(1, 7));
        // Public bodies and foreign firms have a letter (Orden EHA/451/2008), companies a digit unless they are not resident (00), some
        // either.
        return
            n[0] is 'N' or 'P' or 'Q' or 'R' or 'S' or 'W'
            || !char.IsAsciiDigit(n[8]) && (n[0] is not ('A' or 'B' or 'E' or 'H') || n.AsSpan(1).StartsWith("00"))
            ? Digits.Last(n, "JABCDEFGHI"[control])
            : Digits.Last(n, control);
    }

    // As in Great Britain: nine digits by 97 in the old or the new way, three more for a branch; GD and HA are offices of state.
    private static CheckProblem? NorthernIreland(string n)
    {
        if (n.Length == 5)
        {
            if (n[..2] is not ("GD" or "HA"))
                return Strange(n, 0);
            if (Digits.Only(n.AsSpan(2), 3) is { } letter)
                return letter.Further(4);
            return int.Parse(n.AsSpan(2)) < 500 == (n[0] == 'G') ? null : Strange(n, 2);
        }
        if (n.Length is not (9 or 12))
            return Digits.Length("5, 9 or 12", n.Length);
        if (Digits.Only(n, n.Length) is { } strange)
            return strange.Further(2);
        var sum = (Digits.Weighted(n, [8, 7, 6, 5, 4, 3, 2]) + int.Parse(n.AsSpan(7, 2))) % 97;
        return sum == 0 || sum is 42 && int.Parse(n.AsSpan(0, 3)) >= 100
            ? null
            : Ends(n[..9], (97 - Digits.Weighted(n, [8, 7, 6, 5, 4, 3, 2]) % 97) % 97);
    }
}
