using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace WarySentinel.StandIns.Authority;

/// <summary>A request as it is signed (RFC 7515, RFC 8555 §6.2).</summary>
/// <param name="Key">The key that it is signed by, as a JSON Web Key.</param>
/// <param name="Account">The account it names; null where it bears its key.</param>
/// <param name="Nonce">The number that makes it count once.</param>
/// <param name="Url">Where it is meant to go.</param>
/// <param name="Payload">What it says; undefined where it only asks.</param>
public sealed record SignedRequest(JsonElement Key, string? Account, string Nonce, string Url, JsonElement Payload)
{
    /// <summary>Reads one and proves its signature; null where that is not right.</summary>
    /// <param name="text">The request.</param>
    /// <param name="keyOf">The key of an account.</param>
    public static SignedRequest? Read(string text, Func<string, JsonElement?> keyOf)
    {
        var whole = JsonSerializer.Deserialize<JsonElement>(text);
        var (first, second) = (whole.GetProperty("protected").GetString()!, whole.GetProperty("payload").GetString()!);
        var head = JsonSerializer.Deserialize<JsonElement>(Base64Url.DecodeFromChars(first));
        var account = head.TryGetProperty("kid", out var kid) ? kid.GetString()!.Split('/')[^1] : null;
        var key = account is null ? head.GetProperty("jwk") : keyOf(account);
        var signature = Base64Url.DecodeFromChars(whole.GetProperty("signature").GetString()!);
        return key is { } by && IsSigned(by, head.GetProperty("alg").GetString()!, Encoding.ASCII.GetBytes($"{first}.{second}"), signature)
            ? new SignedRequest(
                by, account, head.GetProperty("nonce").GetString()!, head.GetProperty("url").GetString()!,
                second.Length == 0 ? default : JsonSerializer.Deserialize<JsonElement>(Base64Url.DecodeFromChars(second)))
            : null;
    }

    /// <summary>The thumbprint of a key (RFC 7638).</summary>
    public static string ThumbprintOf(JsonElement key)
    {
        string[] names = key.GetProperty("kty").GetString() == "RSA" ? ["e", "kty", "n"] : ["crv", "kty", "x", "y"];
        var plain = "{" + string.Join(',', names.Select(n => $"\"{n}\":\"{key.GetProperty(n).GetString()}\"")) + "}";
        return Base64Url.EncodeToString(SHA256.HashData(Encoding.UTF8.GetBytes(plain)));
    }

    private static bool IsSigned(JsonElement key, string how, byte[] what, byte[] signature)
    {
        byte[] Part(string name) => Base64Url.DecodeFromChars(key.GetProperty(name).GetString()!);
        if (how == "RS256")
        {
            using var rsa = RSA.Create(new RSAParameters { Modulus = Part("n"), Exponent = Part("e") });
            return rsa.VerifyData(what, signature, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        }

        using var ecdsa = ECDsa.Create(new ECParameters { Curve = ECCurve.NamedCurves.nistP256, Q = new ECPoint { X = Part("x"), Y = Part("y") } });
        return how == "ES256" && ecdsa.VerifyData(what, signature, HashAlgorithmName.SHA256);
    }
}
