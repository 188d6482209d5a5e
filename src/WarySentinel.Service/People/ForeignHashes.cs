using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.RegularExpressions;
using Konscious.Security.Cryptography;

namespace WarySentinel.Service.People;

/// <summary>
/// Password hashes that members bring along from elsewhere, in open formats: bcrypt (<c>$2a$ $2b$ $2y$</c>), SHA-crypt (<c>$5$ $6$</c>, glibc's
/// specification), MD5-crypt of Apache (<c>$apr1$</c>), and PHC strings of PBKDF2 and Argon2. They are verified as they are; ours takes their place at the
/// first sign-in.
/// </summary>
public static partial class ForeignHashes
{
    private const int MostBcryptCost = 14;
    private const int MostShaRounds = 1_000_000;
    private const int MostPbkdf2Rounds = 5_000_000;
    private const int MostArgonKibiBytes = 256 * 1024;
    private const int MostArgonPasses = 20;
    private const string Itoa64 = "./0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz";

    /// <summary>Whether a hash has one of these forms, and costs no more to verify than a few seconds.</summary>
    public static bool IsKnown(string hash) => hash.Length <= 512 && (
        (Bcrypt().Match(hash) is { Success: true } b && int.Parse(b.Groups[1].Value, CultureInfo.InvariantCulture) is >= 4 and <= MostBcryptCost)
        || (Sha().Match(hash) is { Success: true } s && RoundsOf(s) <= MostShaRounds)
        || Apr1().IsMatch(hash) || PartsOfPbkdf2(hash) is not null || PartsOfArgon(hash) is not null);

    /// <summary>Whether the password is the one that was hashed; false of a hash that is not known.</summary>
    public static bool Proves(string password, string hash)
    {
        if (!IsKnown(hash))
        {
            return false;
        }

        var bytes = Encoding.UTF8.GetBytes(password);
        if (Bcrypt().IsMatch(hash))
        {
            return BCrypt.Net.BCrypt.Verify(password, hash);
        }

        if (Sha().Match(hash) is { Success: true } sha)
        {
            return Same(hash[(hash.LastIndexOf('$') + 1)..], ShaCrypt(bytes, sha.Groups[1].Value == "6", sha.Groups[3].Value, RoundsOf(sha)));
        }

        if (Apr1().Match(hash) is { Success: true } apr)
        {
            return Same(apr.Groups[2].Value, Apr1Crypt(bytes, Encoding.ASCII.GetBytes(apr.Groups[1].Value)));
        }

        return PartsOfPbkdf2(hash) is var (name, rounds, salt, kept)
            ? CryptographicOperations.FixedTimeEquals(kept, Rfc2898DeriveBytes.Pbkdf2(bytes, salt, rounds, name, kept.Length))
            : PartsOfArgon(hash) is { } argon && CryptographicOperations.FixedTimeEquals(argon.Kept, argon.Made(bytes));
    }

    private static bool Same(string kept, string made) =>
        CryptographicOperations.FixedTimeEquals(Encoding.ASCII.GetBytes(kept), Encoding.ASCII.GetBytes(made));

    private static int RoundsOf(Match sha) => !sha.Groups[2].Success ? 5000
        : Math.Clamp(long.TryParse(sha.Groups[2].Value, CultureInfo.InvariantCulture, out var said) ? (int)Math.Min(said, int.MaxValue)
            : int.MaxValue, 1000, int.MaxValue);

    private static (HashAlgorithmName Name, int Rounds, byte[] Salt, byte[] Kept)? PartsOfPbkdf2(string hash)
    {
        if (Pbkdf2().Match(hash) is not { Success: true } m || !int.TryParse(m.Groups[2].Value, CultureInfo.InvariantCulture, out var rounds)
            || rounds is < 1 or > MostPbkdf2Rounds || Base64(m.Groups[3].Value) is not { Length: > 0 } salt
            || Base64(m.Groups[4].Value) is not { Length: >= 16 and <= 128 } kept)
        {
            return null;
        }

        return (m.Groups[1].Value switch
        {
            "-sha512" => HashAlgorithmName.SHA512,
            "-sha256" => HashAlgorithmName.SHA256,
            _ => HashAlgorithmName.SHA1,
        }, rounds, salt, kept);
    }

    private sealed record Argon(string Kind, int KibiBytes, int Passes, int Lanes, byte[] Salt, byte[] Kept)
    {
        public byte[] Made(byte[] password)
        {
            using Argon2 argon = Kind switch { "argon2id" => new Argon2id(password), "argon2i" => new Argon2i(password), _ => new Argon2d(password) };
            (argon.Salt, argon.MemorySize, argon.Iterations, argon.DegreeOfParallelism) = (Salt, KibiBytes, Passes, Lanes);
            return argon.GetBytes(Kept.Length);
        }
    }

    private static Argon? PartsOfArgon(string hash)
    {
        if (ArgonForm().Match(hash) is not { Success: true } m || Base64(m.Groups[5].Value) is not { Length: >= 8 and <= 64 } salt
            || Base64(m.Groups[6].Value) is not { Length: >= 16 and <= 128 } kept)
        {
            return null;
        }

        int Number(int group) => int.TryParse(m.Groups[group].Value, CultureInfo.InvariantCulture, out var n) ? n : int.MaxValue;
        var (memory, passes, lanes) = (Number(2), Number(3), Number(4));
        return lanes is >= 1 and <= 16 && memory >= 8 * lanes && memory <= MostArgonKibiBytes && passes is >= 1 and <= MostArgonPasses
            ? new Argon(m.Groups[1].Value, memory, passes, lanes, salt, kept) : null;
    }

    /// <summary>Base64 with or without its end, in the two alphabets that hashes are written in; null where it is neither.</summary>
    private static byte[]? Base64(string text)
    {
        text = text.TrimEnd('=').Replace('.', '+');
        try
        {
            return Convert.FromBase64String(text + new string('=', (4 - (text.Length % 4)) % 4));
        }
        catch (FormatException)
        {
            return null;
        }
    }

    /// <summary>SHA-crypt (Drepper, “Unix crypt using SHA-256 and SHA-512”, steps 1 to 22).</summary>
    private static string ShaCrypt(byte[] password, bool is512, string saltText, int rounds)
    {
        var name = is512 ? HashAlgorithmName.SHA512 : HashAlgorithmName.SHA256;
        var salt = Encoding.ASCII.GetBytes(saltText.Length > 16 ? saltText[..16] : saltText);
        byte[] Hash(params byte[][] parts)
        {
            using var hash = IncrementalHash.CreateHash(name);
            foreach (var part in parts)
            {
                hash.AppendData(part);
            }

            return hash.GetHashAndReset();
        }

        static byte[] Fill(byte[] from, int length) => [.. Enumerable.Range(0, length).Select(i => from[i % from.Length])];
        var b = Hash(password, salt, password);
        using var first = IncrementalHash.CreateHash(name);
        first.AppendData(password);
        first.AppendData(salt);
        first.AppendData(Fill(b, password.Length));
        for (var n = password.Length; n > 0; n >>= 1)
        {
            first.AppendData((n & 1) != 0 ? b : password);
        }

        var a = first.GetHashAndReset();
        var p = password.Length == 0 ? [] : Fill(Hash([.. Enumerable.Repeat(password, password.Length)]), password.Length);
        var s = salt.Length == 0 ? [] : Fill(Hash([.. Enumerable.Repeat(salt, 16 + a[0])]), salt.Length);
        for (var round = 0; round < rounds; round++)
        {
            a = Hash(
                (round & 1) != 0 ? p : a, round % 3 != 0 ? s : [], round % 7 != 0 ? p : [], (round & 1) != 0 ? a : p);
        }

        return is512 ? Encode512(a) : Encode256(a);
    }

    private static string Encode512(byte[] a)
    {
        var text = new StringBuilder();
        var (x, y, z) = (0, 21, 42);
        for (var i = 0; i < 21; i++)
        {
            Append(text, (a[x] << 16) | (a[y] << 8) | a[z], 4);
            (x, y, z) = (y + 1, z + 1, x + 1);
        }

        Append(text, a[63], 2);
        return text.ToString();
    }

    private static string Encode256(byte[] a)
    {
        var text = new StringBuilder();
        var (x, y, z) = (0, 10, 20);
        for (var i = 0; i < 10; i++)
        {
            Append(text, (a[x] << 16) | (a[y] << 8) | a[z], 4);
            (x, y, z) = (z + 1, x + 1, y + 1);
        }

        Append(text, (a[31] << 8) | a[30], 3);
        return text.ToString();
    }

    /// <summary>MD5-crypt with Apache's mark (apr_md5.c of the Apache Portable Runtime; the format is documented with htpasswd).</summary>
#pragma warning disable CA5351 // MD5 is what these hashes are made of; ours takes their place at the first sign-in.
    private static string Apr1Crypt(byte[] password, byte[] salt)
    {
        var b = MD5.HashData([.. password, .. salt, .. password]);
        using var first = IncrementalHash.CreateHash(HashAlgorithmName.MD5);
        first.AppendData([.. password, .. "$apr1$"u8, .. salt]);
        for (var n = password.Length; n > 0; n -= 16)
        {
            first.AppendData(b, 0, Math.Min(16, n));
        }

        for (var n = password.Length; n > 0; n >>= 1)
        {
            first.AppendData((n & 1) != 0 ? [0] : password[..1]);
        }

        var a = first.GetHashAndReset();
        for (var round = 0; round < 1000; round++)
        {
            a = MD5.HashData(
            [
                .. (round & 1) != 0 ? password : a, .. round % 3 != 0 ? salt : [], .. round % 7 != 0 ? password : [], .. (round & 1) != 0 ? a : password,
            ]);
        }

        var text = new StringBuilder();
        foreach (var (x, y, z) in new[] { (0, 6, 12), (1, 7, 13), (2, 8, 14), (3, 9, 15), (4, 10, 5) })
        {
            Append(text, (a[x] << 16) | (a[y] << 8) | a[z], 4);
        }

        Append(text, a[11], 2);
        return text.ToString();
    }
#pragma warning restore CA5351

    private static void Append(StringBuilder text, int value, int letters)
    {
        for (; letters > 0; letters--, value >>= 6)
        {
            text.Append(Itoa64[value & 63]);
        }
    }

    [GeneratedRegex(@"^\$2[aby]\$(\d\d)\$[./A-Za-z0-9]{53}$")]
    private static partial Regex Bcrypt();

    [GeneratedRegex(@"^\$([56])\$(?:rounds=(\d+)\$)?([^$:\r\n]{0,64})\$(?:[./A-Za-z0-9]{43}|[./A-Za-z0-9]{86})$")]
    private static partial Regex Sha();

    [GeneratedRegex(@"^\$apr1\$([^$:\r\n]{0,8})\$([./A-Za-z0-9]{22})$")]
    private static partial Regex Apr1();

    [GeneratedRegex(@"^\$pbkdf2(-sha1|-sha256|-sha512)?\$(?:i=)?(\d+)(?:,l=\d+)?\$([./+A-Za-z0-9]+=*)\$([./+A-Za-z0-9]+=*)$")]
    private static partial Regex Pbkdf2();

    [GeneratedRegex(@"^\$(argon2id|argon2i|argon2d)\$v=19\$m=(\d+),t=(\d+),p=(\d+)\$([+/A-Za-z0-9]+)\$([+/A-Za-z0-9]+)$")]
    private static partial Regex ArgonForm();
}
