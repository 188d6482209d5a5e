using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace WarySentinel.Core.Orders;

/// <summary>How a web hook proves whom it is from.</summary>
public enum HookProof
{
    /// <summary>Standard Webhooks: headers <c>webhook-id</c>, <c>webhook-timestamp</c>, <c>webhook-signature</c>; HMAC-SHA256 of the three.</summary>
    Standard,
    /// <summary>An HMAC of the body, in a header.</summary>
    Body,
    /// <summary>An HMAC of a timestamp, a full stop and the body, in a header.</summary>
    TimestampBody,
    /// <summary>A token that both know, in a header.</summary>
    Token,
}

/// <summary>How the web hooks of a source are signed.</summary>
/// <param name="Proof">The sort of proof.</param>
public sealed record HookScheme(HookProof Proof = HookProof.Standard)
{
    /// <summary>The header that the proof stands in; unless it is Standard Webhooks.</summary>
    public string? Header { get; init; }

    /// <summary>The header that the timestamp stands in, in seconds since 1970 (Unix time).</summary>
    public string? TimestampHeader { get; init; }

    /// <summary>Whether the HMAC is written in Base64; in hexadecimal unless.</summary>
    public bool IsBase64 { get; init; }

    /// <summary>What stands before the HMAC in its header, such as <c>sha256=</c>.</summary>
    public string? Prefix { get; init; }

    /// <summary>Whether it is HMAC-SHA512; HMAC-SHA256 unless.</summary>
    public bool IsSha512 { get; init; }
}

/// <summary>What came of looking at a proof.</summary>
public enum HookVerdict
{
    /// <summary>It is from them.</summary>
    Good,
    /// <summary>A header is missing, or is not as it should be.</summary>
    Missing,
    /// <summary>The timestamp is too old, or too far ahead.</summary>
    Old,
    /// <summary>The signature is another.</summary>
    Wrong,
}

/// <summary>Looks whether a web hook is from whom it says (Standard Webhooks 1.0.0; RFC 2104).</summary>
public static class HookSignature
{
    /// <summary>What stands before a secret of Standard Webhooks; the rest is Base64.</summary>
    public const string SecretPrefix = "whsec_";

    /// <summary>How far a timestamp may be off.</summary>
    public static readonly TimeSpan Tolerance = TimeSpan.FromMinutes(5);

    /// <summary>Looks at the proof.</summary>
    /// <param name="scheme">How it is signed.</param>
    /// <param name="secrets">The secrets that count: two while one takes the place of the other.</param>
    /// <param name="header">A header of the request; null where there is none, or several of that name.</param>
    /// <param name="body">The body, as it came.</param>
    /// <param name="now">Now.</param>
    public static HookVerdict Look(HookScheme scheme, IReadOnlyList<string> secrets, Func<string, string?> header, ReadOnlySpan<byte> body, DateTimeOffset now)
    {
        // A secret that cannot be one keys nothing: with an empty key anybody could sign.
        secrets = [.. secrets.Where(s => scheme.Proof == HookProof.Standard ? IsStandardSecret(s) : s.Length > 0)];
        if (scheme.Proof == HookProof.Token)
        {
            var said = scheme.Header is null ? null : WithoutPrefix(header(scheme.Header), scheme.Prefix);
            return said is null ? HookVerdict.Missing : AnySame(secrets.Select(Encoding.UTF8.GetBytes), Encoding.UTF8.GetBytes(said));
        }

        var (isStandard, stamped) = (scheme.Proof == HookProof.Standard, scheme.Proof != HookProof.Body);
        var stamp = stamped ? header(isStandard ? "webhook-timestamp" : scheme.TimestampHeader ?? "") : null;
        var id = isStandard ? header("webhook-id") : null;
        var signed = header(isStandard ? "webhook-signature" : scheme.Header ?? "");
        if (string.IsNullOrEmpty(signed) || (isStandard && string.IsNullOrEmpty(id))
            || (stamped && !long.TryParse(stamp, NumberStyles.None, CultureInfo.InvariantCulture, out _)))
        {
            return HookVerdict.Missing;
        }

        if (stamped && IsFarFrom(long.Parse(stamp!, CultureInfo.InvariantCulture), now))
        {
            return HookVerdict.Old;
        }

        var before = Encoding.UTF8.GetBytes(isStandard ? $"{id}.{stamp}." : stamped ? $"{stamp}." : "");
        byte[] whole = [.. before, .. body];
        var right = secrets.Select(s => Keyed(scheme, s, whole)).ToList();
        if (isStandard)
        {
            return signed.Split(' ').Take(20).Where(s => s.StartsWith("v1,", StringComparison.Ordinal)).Select(s => Decoded(s[3..], true)).OfType<byte[]>()
                .Select(s => AnySame(right, s)).Append(HookVerdict.Wrong).Min();
        }

        return WithoutPrefix(signed, scheme.Prefix) is { } text && Decoded(text, scheme.IsBase64) is { } digest ? AnySame(right, digest) : HookVerdict.Missing;
    }

    /// <summary>The signature that Standard Webhooks has for a message: <c>v1,</c> and Base64.</summary>
    public static string Sign(string secret, string id, long timestamp, ReadOnlySpan<byte> body) =>
        "v1," + Convert.ToBase64String(Keyed(new HookScheme(), secret,
            [.. Encoding.UTF8.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{id}.{timestamp}.")), .. body]));

    /// <summary>Whether a text can be the secret of Standard Webhooks: 24 to 64 bytes in Base64, with or without what stands before it.</summary>
    public static bool IsStandardSecret(string text) => KeyOf(text) is { Length: >= 24 and <= 64 };

    private static byte[] Keyed(HookScheme scheme, string secret, byte[] whole)
    {
        var key = scheme.Proof == HookProof.Standard ? KeyOf(secret)! : Encoding.UTF8.GetBytes(secret);
        return scheme.IsSha512 && scheme.Proof != HookProof.Standard ? HMACSHA512.HashData(key, whole) : HMACSHA256.HashData(key, whole);
    }

    private static byte[]? KeyOf(string secret) => Decoded(secret.StartsWith(SecretPrefix, StringComparison.Ordinal) ? secret[SecretPrefix.Length..]
        : secret, true);

    private static bool IsFarFrom(long stamp, DateTimeOffset now) => Math.Abs((decimal)stamp - now.ToUnixTimeSeconds()) > (decimal)Tolerance.TotalSeconds;

    private static HookVerdict AnySame(IEnumerable<byte[]> right, byte[] said) =>
        right.Aggregate(false, (found, one) => CryptographicOperations.FixedTimeEquals(one, said) | found) ? HookVerdict.Good : HookVerdict.Wrong;

    private static string? WithoutPrefix(string? text, string? prefix) => string.IsNullOrEmpty(prefix) || text is null ? text
        : text.StartsWith(prefix, StringComparison.OrdinalIgnoreCase) ? text[prefix.Length..] : null;

    private static byte[]? Decoded(string text, bool base64)
    {
        try
        {
            return base64 ? Convert.FromBase64String(text) : Convert.FromHexString(text);
        }
        catch (FormatException)
        {
            return null;
        }
    }
}
