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
}
