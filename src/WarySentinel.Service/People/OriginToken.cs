using System.Security.Cryptography;
using Microsoft.IdentityModel.JsonWebTokens;
using Microsoft.IdentityModel.Tokens;
using WarySentinel.Core;

namespace WarySentinel.Service.People;

/// <summary>
/// Signs what the guarded site is told (JWT, RFC 7519, with ES256, RFC 7518 §3.4), so that it can prove that a request came through us. The key is drawn from
/// the service's secret: every machine has the same, and a new secret has a new one.
/// </summary>
public sealed class OriginToken : IDisposable
{
    /// <summary>How long a token holds: long enough for a request, too short to be of use to anybody else.</summary>
    private static readonly TimeSpan Life = TimeSpan.FromMinutes(2);

    private const int MostKept = 20_000;
    private readonly ECDsa key;
    private readonly SigningCredentials credentials;
    private readonly ServiceOptions options;
    private readonly TimeProvider time;
    private readonly Recent<(string Token, DateTimeOffset Until)> kept = new(MostKept);
    private readonly JsonWebTokenHandler handler = new() { SetDefaultTimesOnTokenCreation = false };

    /// <summary>Draws the key.</summary>
    public OriginToken(Secrets secrets, ServiceOptions options, TimeProvider time)
    {
        (this.options, this.time) = (options, time);
        key = secrets.OriginKey();
        var signing = new ECDsaSecurityKey(key);
        signing.KeyId = Base64UrlEncoder.Encode(signing.ComputeJwkThumbprint())[..16];
        credentials = new SigningCredentials(signing, SecurityAlgorithms.EcdsaSha256);
    }

    /// <summary>The public half, as a set of keys (RFC 7517 §5).</summary>
    public object KeySet()
    {
        var point = key.ExportParameters(false).Q;
        return new
        {
            keys = new[]
            {
                new
                {
                    kty = "EC", crv = "P-256", use = "sig", alg = "ES256", kid = credentials.Key.KeyId, x = Base64UrlEncoder.Encode(point.X!),
                    y = Base64UrlEncoder.Encode(point.Y!),
                },
            },
        };
    }

    /// <summary>A token with these claims; the same for as long as half its life where the claims are the same.</summary>
    /// <param name="subject">Who asks: an e-mail address, or <c>guest</c>.</param>
    /// <param name="claims">What else is told, by name.</param>
    public string Of(string subject, IReadOnlyDictionary<string, string[]> claims)
    {
        var now = time.GetUtcNow();
        var name = subject + "\n" + string.Join('\n', claims.Select(c => c.Key + "=" + string.Join(',', c.Value)));
        if (kept.TryGet(name, out var known) && known.Until > now)
        {
            return known.Token;
        }

        var token = handler.CreateToken(new SecurityTokenDescriptor
        {
            Issuer = options.SiteUrl, Audience = options.Origin.Length > 0 ? options.Origin : options.SiteUrl,
            IssuedAt = now.UtcDateTime, NotBefore = (now - TimeSpan.FromSeconds(30)).UtcDateTime,
            Expires = (now + Life).UtcDateTime, SigningCredentials = credentials,
            Claims = new Dictionary<string, object>(claims.Select(c => KeyValuePair.Create(c.Key, (object)c.Value))) { ["sub"] = subject },
        });
        kept.Keep(name, (token, now + (Life / 2)));
        return token;
    }

    /// <inheritdoc/>
    public void Dispose() => key.Dispose();
}
