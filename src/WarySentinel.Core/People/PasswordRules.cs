using System.Text;

namespace WarySentinel.Core.People;

/// <summary>How hard a password is to guess for somebody who knows what we know of its owner.</summary>
/// <param name="Score">0 (at once) to 4 (not in a lifetime), as zxcvbn counts.</param>
/// <param name="Guessed">The part that is guessed most easily, where one is.</param>
public sealed record PasswordStrength(int Score, string? Guessed);

/// <summary>
/// What a password that somebody chooses has to be: long, and not what everybody would guess. No kinds of characters are asked for, any character is
/// welcome, and nobody has to change it for its age (NIST SP 800-63B §3.1.1.2).
/// </summary>
/// <param name="strength">Judges a password with the words that belong to its owner.</param>
public sealed class PasswordRules(Func<string, IReadOnlyList<string>, PasswordStrength> strength)
{
    /// <summary>Shortest password of an account, in characters as people count them (Unicode code points).</summary>
    public const int Shortest = 12;

    /// <summary>Longest password of an account, in UTF-16 units.</summary>
    public const int Longest = 200;

    /// <summary>The score below which a password is refused.</summary>
    public const int Weakest = 2;

    private const int ShortestOwn = 3;
    private const int MostRepeated = 3;

    /// <summary>What is wrong with a password; null where nothing is.</summary>
    /// <param name="password">As it was typed.</param>
    /// <param name="own">Words that whoever knows its owner knows: address, name, the site.</param>
    public Problem? FaultOf(string password, params IReadOnlyList<string?> own)
    {
        password = Spelling.OfPassword(password);
        if (password.Length > Longest)
        {
            return Problem.In("password", "password-long", Longest);
        }

        if (password.EnumerateRunes().Count() < Shortest)
        {
            return Problem.In("password", "password-short", Shortest);
        }

        if (password.EnumerateRunes().Distinct().Count() <= MostRepeated)
        {
            return Problem.In("password", "password-same");
        }

        var words = OwnWords(own);
        if (OwnPart(password, words) is { } named)
        {
            return Problem.In("password", "password-own", named);
        }

        var found = strength(password, words);
        return found.Score >= Weakest ? null : found.Guessed is { Length: >= 4 } guessed ? Problem.In("password", "password-guessed", guessed)
            : Problem.In("password", "password-weak");
    }

    /// <summary>The words of an owner: whole, and in their parts.</summary>
    public static List<string> OwnWords(IReadOnlyList<string?> own) =>
    [
        .. own.OfType<string>().SelectMany(w => w.Split(' ', '.', '@', '-', '_', '+').Append(w)).Select(Spelling.Folded)
            .Where(w => w.Length >= ShortestOwn).Distinct(),
    ];

    /// <summary>The own word that a password is made of, where next to nothing is left of it without all of them; else null.</summary>
    private static string? OwnPart(string password, List<string> words)
    {
        var rest = new StringBuilder(Spelling.Folded(password));
        string? first = null;
        foreach (var word in words.OrderByDescending(w => w.Length))
        {
            first ??= rest.ToString().Contains(word, StringComparison.Ordinal) ? word : null;
            rest.Replace(word, "");
        }

        return rest.ToString().Count(char.IsLetterOrDigit) < Shortest / 2 ? first : null;
    }
}
