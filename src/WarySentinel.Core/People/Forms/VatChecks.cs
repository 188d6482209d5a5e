using System.Globalization;

namespace WarySentinel.Core.People.Forms;

/// <summary>The check digits of VAT numbers, a country's rule each. What comes in has the form already.</summary>
internal static class VatChecks
{
    /// <summary>The sum of digits times their weights.</summary>
    public static int Weighted(string digits, IReadOnlyList<int> weights) => weights.Select((w, i) => (digits[i] - '0') * w).Sum();

    /// <summary>Twice every second digit from the right, and the sum of all ends in nought.</summary>
    public static bool Luhn(string digits) => digits.Reverse().Select((c, i) => i % 2 == 0 ? c - '0' : Crossed((c - '0') * 2)).Sum() % 10 == 0;

    /// <summary>ISO 7064, MOD 11,10.</summary>
    public static bool Mod11By10(string digits)
    {
        var product = 10;
        foreach (var digit in digits[..^1])
        {
            var sum = (digit - '0' + product) % 10;
            product = (sum == 0 ? 10 : sum) * 2 % 11;
        }

        return (11 - product) % 10 == digits[^1] - '0';
    }

    /// <summary>Austria: as Luhn's, with four added.</summary>
    public static bool Austria(string digits)
    {
        var sum = digits[..7].Select((c, i) => i % 2 == 0 ? c - '0' : Crossed((c - '0') * 2)).Sum();
        return (10 - (sum + 4) % 10) % 10 == digits[7] - '0';
    }

    /// <summary>Switzerland: the number of the enterprise.</summary>
    public static bool Switzerland(string number)
    {
        var digits = string.Concat(number.Where(char.IsAsciiDigit));
        var check = (11 - Weighted(digits, [5, 4, 3, 2, 7, 6, 5, 4]) % 11) % 11;
        return check < 10 && check == digits[8] - '0';
    }

    /// <summary>Cyprus: digits in odd places by a table.</summary>
    public static bool Cyprus(string number)
    {
        int[] odd = [1, 0, 5, 7, 9, 13, 15, 17, 19, 21];
        var sum = number[..8].Select((c, i) => i % 2 == 0 ? odd[c - '0'] : c - '0').Sum();
        return sum % 26 == number[8] - 'A';
    }

    /// <summary>Czechia: companies.</summary>
    public static bool Czechia(string digits)
    {
        var check = (11 - Weighted(digits[..7], [8, 7, 6, 5, 4, 3, 2]) % 11) % 10;
        return digits[0] != '9' && check == digits[7] - '0';
    }

    /// <summary>Greece: powers of two.</summary>
    public static bool Greece(string digits) => Weighted(digits[..8], [256, 128, 64, 32, 16, 8, 4, 2]) % 11 % 10 == digits[8] - '0';

    /// <summary>Spain: persons, foreigners and companies.</summary>
    public static bool Spain(string number)
    {
        const string letters = "TRWAGMYFPDXBNJZSQVHLCKE";
        var (first, last) = (number[0], number[8]);
        if (char.IsAsciiDigit(first) || first is 'X' or 'Y' or 'Z')
        {
            var digits = (first is 'X' ? "0" : first is 'Y' ? "1" : first is 'Z' ? "2" : first.ToString()) + number[1..8];
            return letters[(int)(long.Parse(digits, CultureInfo.InvariantCulture) % 23)] == last;
        }

        var check = (10 - number[1..8].Select((c, i) => i % 2 == 1 ? c - '0' : Crossed((c - '0') * 2)).Sum() % 10) % 10;
        return "ABCDEFGHJKLMNPQRSUVW".Contains(first, StringComparison.Ordinal) && (last == '0' + check || last == "JABCDEFGHI"[check]);
    }

    /// <summary>France: two digits of the enterprise's number, by MOD 97; the newer form with letters has no public rule.</summary>
    public static bool France(string number)
    {
        var siren = long.Parse(number[2..], CultureInfo.InvariantCulture);
        return !(char.IsAsciiDigit(number[0]) && char.IsAsciiDigit(number[1]))
            || (12 + 3 * (siren % 97)) % 97 == long.Parse(number[..2], CultureInfo.InvariantCulture);
    }

    /// <summary>Britain and Northern Ireland: MOD 97, as it was and as it is.</summary>
    public static bool Britain(string number)
    {
        if (!char.IsAsciiDigit(number[0]))
        {
            var body = int.Parse(number[2..], CultureInfo.InvariantCulture);
            return number.StartsWith("GD", StringComparison.Ordinal) ? body < 500 : body >= 500;
        }

        var sum = Weighted(number[..7], [8, 7, 6, 5, 4, 3, 2]) + int.Parse(number[7..9], CultureInfo.InvariantCulture);
        return sum % 97 == 0 || (sum + 55) % 97 == 0;
    }

    /// <summary>Ireland: a letter by MOD 23, and a second letter counts nine times.</summary>
    public static bool Ireland(string number)
    {
        var sum = Weighted(number[..7], [8, 7, 6, 5, 4, 3, 2]) + (number.Length == 9 ? (number[8] - 'A' + 1) * 9 : 0);
        return "WABCDEFGHIJKLMNOPQRSTUV"[sum % 23] == number[7];
    }

    /// <summary>Lithuania: MOD 11, and with other weights where that gives ten.</summary>
    public static bool Lithuania(string digits)
    {
        var body = digits[..^1];
        int Sum(int from) => body.Select((c, i) => (c - '0') * ((i + from) % 9 + 1)).Sum() % 11;
        var check = Sum(0) is var first and not 10 ? first : Sum(2) % 11 % 10;
        return digits[^2] == '1' && check == digits[^1] - '0';
    }

    /// <summary>The Netherlands: MOD 11 of companies, or MOD 97 of persons.</summary>
    public static bool Netherlands(string number) =>
        Weighted(number[..8], [9, 8, 7, 6, 5, 4, 3, 2]) % 11 == number[8] - '0'
        || Iban.Remainder("NL" + number) == 1;

    /// <summary>Romania: weights from the right.</summary>
    public static bool Romania(string digits)
    {
        var body = digits[..^1].PadLeft(9, '0');
        return Weighted(body, [7, 5, 3, 2, 1, 7, 5, 3, 2]) * 10 % 11 % 10 == digits[^1] - '0';
    }

    private static int Crossed(int number) => number / 10 + number % 10;
}
