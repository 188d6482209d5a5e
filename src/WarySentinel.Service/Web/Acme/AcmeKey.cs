using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace WarySentinel.Service.Web.Acme;

/// <summary>The key of an account at a certificate authority, and what is signed by it (RFC 7515, RFC 7518 §3.4, RFC 8555 §6.2).</summary>
internal sealed class AcmeKey : IDisposable
{
    private readonly ECDsa key;

    private AcmeKey(ECDsa key)
    {
        this.key = key;
        var point = key.ExportParameters(false).Q;
        // In the order of their names, without a blank: the thumbprint is taken of it as it stands (RFC 7638 §3).
        Public = $$"""{"crv":"P-256","kty":"EC","x":"{{Encoded(point.X!)}}","y":"{{Encoded(point.Y!)}}"}""";
    }

    /// <summary>The public half, as a JSON Web Key.</summary>
    public string Public { get; }

    /// <summary>The thumbprint of the public half (RFC 7638).</summary>
    public string Thumbprint => Encoded(SHA256.HashData(Encoding.UTF8.GetBytes(Public)));

    /// <summary>The key of a file, which is made where it is not there.</summary>
    public static AcmeKey Of(string file)
    {
        var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        if (File.Exists(file))
        {
            key.ImportFromPem(File.ReadAllText(file));
        }
        else
        {
            SecretFile.Write(file, key.ExportPkcs8PrivateKeyPem());
        }

        return new AcmeKey(key);
    }

    /// <summary>A request as it is signed.</summary>
    /// <param name="url">Where it goes.</param>
    /// <param name="nonce">The number that makes it count once.</param>
    /// <param name="account">The address of the account; null where it is not known yet.</param>
    /// <param name="payload">What it says; null where it only asks (POST-as-GET, RFC 8555 §6.3).</param>
    public string Sign(Uri url, string nonce, Uri? account, object? payload)
    {
        var head = new JsonObject { ["alg"] = "ES256", ["nonce"] = nonce, ["url"] = url.AbsoluteUri };
        head[account is null ? "jwk" : "kid"] = account is null ? JsonNode.Parse(Public) : account.AbsoluteUri;
        var first = Encoded(Encoding.UTF8.GetBytes(head.ToJsonString()));
        var second = payload is null ? "" : Encoded(JsonSerializer.SerializeToUtf8Bytes(payload));
        var signature = key.SignData(Encoding.ASCII.GetBytes($"{first}.{second}"), HashAlgorithmName.SHA256);
        return new JsonObject { ["protected"] = first, ["payload"] = second, ["signature"] = Encoded(signature) }.ToJsonString();
    }

    /// <summary>Bytes as RFC 7515 §2 writes them.</summary>
    public static string Encoded(ReadOnlySpan<byte> bytes) => Base64Url.EncodeToString(bytes);

    /// <inheritdoc/>
    public void Dispose() => key.Dispose();
}
