using System.Security.Cryptography;
using System.Text;
using WarySentinel.Core;
using WarySentinel.Core.People;

namespace WarySentinel.Service.People;

/// <summary>Judges passwords by zxcvbn and the lists of common passwords, names and words that it brings along; nothing is asked of anybody outside.</summary>
public static class PasswordJudge
{
    // The work grows faster than the length (0.1 s at 40 characters made for it, 0.8 s at 200); more characters only make a password better.
    private const int Judged = 40;

    /// <summary>Random bits of a generated password.</summary>
    public const int GeneratedBits = 79;

    private const int GeneratedLetters = 16;

    // Without letters that are taken for another when they are read aloud or from paper: 31 of them, 4.95 bits each.
    private const string Readable = "abcdefghjkmnpqrstuvwxyz23456789";

    private const int MostKnown = 2000;
    private static readonly byte[] Key = RandomNumberGenerator.GetBytes(32);
    private static readonly Recent<PasswordStrength> Lately = new(MostKnown);

    /// <summary>How hard a password is to guess for somebody who knows its owner's words. What was judged lately is known still, by a digest alone.</summary>
    public static PasswordStrength StrengthOf(string password, IReadOnlyList<string> own)
    {
        var name = Convert.ToHexString(HMACSHA256.HashData(Key, Encoding.UTF8.GetBytes(string.Join('\0', [password, .. own]))));
        if (!Lately.TryGet(name, out var known))
        {
            known = Judge(password, own);
            Lately.Keep(name, known);
        }

        return known;
    }

    private static PasswordStrength Judge(string password, IReadOnlyList<string> own)
    {
        var head = password.Length > Judged ? password[..Judged] : password;
        var found = Zxcvbn.Zxcvbn.MatchPassword(head, own);
        var guessed = found.MatchSequence.Where(m => m.Pattern != "bruteforce").OrderByDescending(m => m.Token.Length).FirstOrDefault()?.Token;
        return new PasswordStrength(found.Score, guessed);
    }

    /// <summary>A password that can be read aloud: four groups of four letters and digits.</summary>
    public static string Generate()
    {
        var letters = RandomNumberGenerator.GetItems<char>(Readable, GeneratedLetters);
        return string.Join('-', letters.Chunk(4).Select(c => new string(c)));
    }
}
