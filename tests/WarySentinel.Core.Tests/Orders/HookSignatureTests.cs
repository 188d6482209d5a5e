using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Orders;
using Xunit;

namespace WarySentinel.Core.Tests.Orders;

/// <summary>Whom web hooks are from: by the published example of the specification, and by calls that are bent in every way.</summary>
public sealed class HookSignatureTests
{
    private const string Secret = "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw";
    private static readonly DateTimeOffset Then = DateTimeOffset.FromUnixTimeSeconds(1_614_265_330);

    private static HookVerdict Look(HookScheme scheme, Dictionary<string, string> headers, string body, DateTimeOffset? now = null, params string[] secrets) =>
        HookSignature.Look(scheme, secrets.Length > 0 ? secrets : [Secret], headers.GetValueOrDefault!, Encoding.UTF8.GetBytes(body), now ?? Then);

    private static Dictionary<string, string> Example() => new(StringComparer.OrdinalIgnoreCase)
    {
        ["webhook-id"] = "msg_p5jXN8AQM9LWM0D4loKWxJek", ["webhook-timestamp"] = "1614265330",
        ["webhook-signature"] = "v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE=",
    };

    [Fact]
    public void The_published_example_is_good_beside_others_and_nothing_else_is()
    {
        const string body = """{"test": 2432232314}""";
        Look(new HookScheme(), Example(), body).ShouldBe(HookVerdict.Good);
        var beside = Example();
        beside["webhook-signature"] = "v2,abc v1,AAAA v1a,x " + beside["webhook-signature"];
        Look(new HookScheme(), beside, body).ShouldBe(HookVerdict.Good);
        Look(new HookScheme(), Example(), body + " ").ShouldBe(HookVerdict.Wrong);
        Look(new HookScheme(), Example(), body, Then.AddMinutes(4.9)).ShouldBe(HookVerdict.Good);
        Look(new HookScheme(), Example(), body, Then.AddMinutes(5.1)).ShouldBe(HookVerdict.Old);
        Look(new HookScheme(), Example(), body, Then.AddMinutes(-5.1)).ShouldBe(HookVerdict.Old);
        // The one before counts beside the one of now.
        Look(new HookScheme(), Example(), body, null, "whsec_" + Convert.ToBase64String(new byte[32]), Secret).ShouldBe(HookVerdict.Good);
    }

    [Theory]
    [InlineData("webhook-id", null)]
    [InlineData("webhook-timestamp", null)]
    [InlineData("webhook-timestamp", "soon")]
    [InlineData("webhook-timestamp", "-1")]
    [InlineData("webhook-timestamp", "99999999999999999999")]
    [InlineData("webhook-signature", null)]
    [InlineData("webhook-signature", "")]
    public void What_is_missing_or_odd_is_told_as_that(string header, string? value)
    {
        var headers = Example();
        headers.Remove(header);
        if (value is not null)
        {
            headers[header] = value;
        }

        Look(new HookScheme(), headers, """{"test": 2432232314}""").ShouldBe(HookVerdict.Missing);
    }

    [Theory]
    [InlineData("9223372036854775807")]
    [InlineData("0")]
    public void A_timestamp_at_the_end_of_numbers_is_old_and_breaks_nothing(string stamp)
    {
        var headers = Example();
        headers["webhook-timestamp"] = stamp;
        Look(new HookScheme(), headers, "{}").ShouldBe(HookVerdict.Old);
    }

    [Fact]
    public void A_secret_that_is_none_keys_nothing()
    {
        // Signed with an empty key, as whoever guesses a broken secret would.
        var headers = Example();
        var empty = HMACSHA256.HashData(Array.Empty<byte>(), Encoding.UTF8.GetBytes($"{headers["webhook-id"]}.{headers["webhook-timestamp"]}.{{}}"));
        headers["webhook-signature"] = "v1," + Convert.ToBase64String(empty);
        foreach (var broken in new[] { "", "whsec_", "whsec_!!", "not base64 at all", "whsec_AAAA" })
        {
            Look(new HookScheme(), headers, "{}", null, broken).ShouldBe(HookVerdict.Wrong, broken);
        }

        HookSignature.Look(new HookScheme(HookProof.Token) { Header = "X" }, [""], _ => "", [], Then).ShouldNotBe(HookVerdict.Good);
        HookSignature.Look(new HookScheme(HookProof.Token) { Header = "X" }, [], _ => "", [], Then).ShouldNotBe(HookVerdict.Good);
    }

    [Property(MaxTest = 400)]
    public void Every_scheme_takes_what_is_signed_by_it_and_refuses_it_bent_anywhere(int seed)
    {
        var random = new Random(seed);
        var scheme = new HookScheme((HookProof)random.Next(4))
        {
            Header = "X-Proof", TimestampHeader = "X-At", IsBase64 = random.Next(2) == 0, IsSha512 = random.Next(2) == 0,
            Prefix = random.Next(2) == 0 ? null : "sha=",
        };
        var (body, secret) = (new string([.. Enumerable.Range(0, random.Next(200)).Select(_ => (char)random.Next(32, 0x2FF))]), Secret + random.Next());
        secret = scheme.Proof == HookProof.Standard ? Secret : secret;
        var stamp = Then.ToUnixTimeSeconds().ToString(CultureInfo.InvariantCulture);
        var headers = Headers(scheme, secret, stamp, body);
        Look(scheme, headers, body, null, secret).ShouldBe(HookVerdict.Good);
        Look(scheme, headers, body, null, Secret + "x", scheme.Proof == HookProof.Standard ? Secret : secret).ShouldBe(HookVerdict.Good);

        var (proof, at) = (scheme.Proof == HookProof.Standard ? "webhook-signature" : "X-Proof", 0);
        at = headers[proof].Length - 1 - random.Next(Math.Min(20, headers[proof].Length));
        var bent = headers[proof].ToCharArray();
        bent[at] = bent[at] == '0' ? '1' : '0';
        Look(scheme, new(headers) { [proof] = new string(bent) }, body, null, secret).ShouldNotBe(HookVerdict.Good);
        Look(scheme, headers, body, null, "whsec_" + Convert.ToBase64String(new byte[32])).ShouldNotBe(HookVerdict.Good);
        if (scheme.Proof != HookProof.Token)
        {
            Look(scheme, headers, body + "x", null, secret).ShouldBe(HookVerdict.Wrong);
        }
    }

    /// <summary>Signed by a second reading of how each scheme signs.</summary>
    private static Dictionary<string, string> Headers(HookScheme scheme, string secret, string stamp, string body)
    {
        string Written(byte[] key, string text)
        {
            var bytes = Encoding.UTF8.GetBytes(text);
            var digest = scheme.IsSha512 ? new HMACSHA512(key).ComputeHash(bytes) : new HMACSHA256(key).ComputeHash(bytes);
            return scheme.Prefix + (scheme.IsBase64 ? Convert.ToBase64String(digest) : Convert.ToHexString(digest));
        }

        var plain = Encoding.UTF8.GetBytes(secret);
        return scheme.Proof switch
        {
            HookProof.Standard => new()
            {
                ["webhook-id"] = "m", ["webhook-timestamp"] = stamp, ["webhook-signature"] = "v1," + Convert.ToBase64String(
                    new HMACSHA256(Convert.FromBase64String(secret[6..])).ComputeHash(Encoding.UTF8.GetBytes($"m.{stamp}.{body}"))),
            },
            HookProof.Body => new() { ["X-Proof"] = Written(plain, body) },
            HookProof.TimestampBody => new() { ["X-Proof"] = Written(plain, $"{stamp}.{body}"), ["X-At"] = stamp },
            _ => new() { ["X-Proof"] = scheme.Prefix + secret },
        };
    }
}
