using System.Net;
using System.Net.Http.Headers;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using System.Text.Json;

namespace WarySentinel.Service.Web.Acme;

/// <summary>Why an authority issued no certificate.</summary>
public sealed class AcmeException(string message) : Exception(message);

/// <summary>
/// Has certificates issued by an authority that speaks ACME (RFC 8555), by the challenge http-01. No package for it can be had from the registries that we
/// build from.
/// </summary>
internal sealed class AcmeClient(HttpClient http, Uri directory, AcmeKey key, AcmeChallenges challenges, TimeProvider time)
{
    private const int MostTries = 6;
    private const int MostBytes = 1 << 20;
    private static readonly TimeSpan Longest = TimeSpan.FromMinutes(5);
    private static readonly TimeSpan LongestPause = TimeSpan.FromSeconds(15);
    private JsonElement places;
    private Uri? account;
    private string? nonce;

    private sealed record Answer(HttpStatusCode Status, Uri? Location, TimeSpan? After, string Text)
    {
        public JsonElement Json => JsonSerializer.Deserialize<JsonElement>(Text);
    }

    /// <summary>A certificate for names, with those above it, in PEM (RFC 8555 §7.4).</summary>
    /// <param name="names">The names; the first is its subject.</param>
    /// <param name="contact">The e-mail address that the authority may write to.</param>
    /// <param name="own">The key of the certificate.</param>
    /// <param name="stop">Cancels it.</param>
    public async Task<string> IssueAsync(IReadOnlyList<string> names, string contact, ECDsa own, CancellationToken stop)
    {
        using var all = CancellationTokenSource.CreateLinkedTokenSource(stop);
        all.CancelAfter(Longest);
        try
        {
            return await OrderAsync(names, contact, own, all.Token);
        }
        catch (Exception fault) when (fault is HttpRequestException or IOException or JsonException or KeyNotFoundException or InvalidOperationException
            or UriFormatException || (fault is OperationCanceledException && !stop.IsCancellationRequested))
        {
            throw new AcmeException($"{directory.Host} did not answer as it should. {fault.Message}");
        }
    }

    /// <summary>A request of a certificate for names.</summary>
    public static CertificateRequest RequestFor(IReadOnlyList<string> names, ECDsa own)
    {
        var request = new CertificateRequest("CN=" + names[0], own, HashAlgorithmName.SHA256);
        var alternative = new SubjectAlternativeNameBuilder();
        names.ToList().ForEach(alternative.AddDnsName);
        request.CertificateExtensions.Add(alternative.Build());
        return request;
    }

    private async Task<string> OrderAsync(IReadOnlyList<string> names, string contact, ECDsa own, CancellationToken stop)
    {
        using (var asked = await http.GetAsync(directory, stop))
        {
            places = JsonSerializer.Deserialize<JsonElement>(await TextOfAsync(asked.EnsureSuccessStatusCode(), stop));
        }

        account = (await PostAsync(Place("newAccount"), new { termsOfServiceAgreed = true, contact = new[] { "mailto:" + contact } }, stop)).Location
            ?? throw new AcmeException($"{directory.Host} made no account.");
        var made = await PostAsync(Place("newOrder"), new { identifiers = names.Select(n => new { type = "dns", value = n }) }, stop);
        var order = made.Location ?? throw new AcmeException($"{directory.Host} took no order.");
        foreach (var proof in made.Json.GetProperty("authorizations").EnumerateArray().Select(a => new Uri(a.GetString()!)).ToList())
        {
            await ProveAsync(proof, stop);
        }

        var ready = await UntilAsync(order, s => s is "ready" or "valid", stop);
        var request = RequestFor(names, own).CreateSigningRequest();
        await PostAsync(new Uri(ready.GetProperty("finalize").GetString()!), new { csr = AcmeKey.Encoded(request) }, stop);
        var issued = await UntilAsync(order, s => s == "valid", stop);
        return (await PostAsync(new Uri(issued.GetProperty("certificate").GetString()!), null, stop)).Text;
    }

    /// <summary>Shows that a name leads here.</summary>
    private async Task ProveAsync(Uri proof, CancellationToken stop)
    {
        var asked = (await PostAsync(proof, null, stop)).Json;
        if (asked.GetProperty("status").GetString() == "valid")
        {
            return;
        }

        var challenge = asked.GetProperty("challenges").EnumerateArray().FirstOrDefault(c => c.GetProperty("type").GetString() == "http-01");
        if (challenge.ValueKind != JsonValueKind.Object)
        {
            throw new AcmeException($"{directory.Host} does not take http-01 as a proof.");
        }

        var token = challenge.GetProperty("token").GetString()!;
        challenges.Put(token, $"{token}.{key.Thumbprint}");
        try
        {
            await PostAsync(new Uri(challenge.GetProperty("url").GetString()!), new { }, stop);
            await UntilAsync(proof, s => s == "valid", stop);
        }
        finally
        {
            challenges.Drop(token);
        }
    }

    /// <summary>Asks until it has come so far; throws where it never will.</summary>
    private async Task<JsonElement> UntilAsync(Uri url, Func<string, bool> isDone, CancellationToken stop)
    {
        for (var pause = TimeSpan.FromSeconds(0.5); ; pause = pause * 2 < LongestPause ? pause * 2 : LongestPause)
        {
            var answer = await PostAsync(url, null, stop);
            var status = answer.Json.GetProperty("status").GetString()!;
            if (isDone(status))
            {
                return answer.Json;
            }

            if (status is "invalid" or "deactivated" or "expired" or "revoked")
            {
                throw new AcmeException(WhyOf(answer.Json) ?? $"{directory.Host} says “{status}”.");
            }

            await Task.Delay(answer.After is { } after && after < LongestPause ? after : pause, time, stop);
        }
    }

    /// <summary>Sends what is signed. A number that counts no more is replaced (RFC 8555 §6.5).</summary>
    private async Task<Answer> PostAsync(Uri url, object? payload, CancellationToken stop)
    {
        for (var tries = 1; ; tries++)
        {
            nonce ??= await NonceAsync(stop);
            using var content = new StringContent(key.Sign(url, nonce, account, payload), Encoding.UTF8);
            content.Headers.ContentType = new MediaTypeHeaderValue("application/jose+json");
            using var response = await http.PostAsync(url, content, stop);
            nonce = response.Headers.TryGetValues("Replay-Nonce", out var next) ? next.First() : null;
            var text = await TextOfAsync(response, stop);
            if (response.IsSuccessStatusCode)
            {
                var after = response.Headers.RetryAfter?.Delta ?? (response.Headers.RetryAfter?.Date - time.GetUtcNow());
                return new Answer(response.StatusCode, response.Headers.Location, after, text);
            }

            if (tries >= MostTries || !text.Contains("urn:ietf:params:acme:error:badNonce", StringComparison.Ordinal))
            {
                throw new AcmeException(WhyOf(text) ?? $"{directory.Host} answers {(int)response.StatusCode}.");
            }
        }
    }

    private async Task<string> NonceAsync(CancellationToken stop)
    {
        using var request = new HttpRequestMessage(HttpMethod.Head, Place("newNonce"));
        using var response = await http.SendAsync(request, stop);
        return response.Headers.TryGetValues("Replay-Nonce", out var given) ? given.First() : throw new AcmeException($"{directory.Host} gives no nonce.");
    }

    private Uri Place(string name) => new(places.GetProperty(name).GetString()!);

    private static string? WhyOf(string text)
    {
        try
        {
            return WhyOf(JsonSerializer.Deserialize<JsonElement>(text));
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>What an authority says is wrong, wherever it says it (RFC 8555 §6.7, §7.1.4).</summary>
    private static string? WhyOf(JsonElement said)
    {
        if (said.ValueKind != JsonValueKind.Object)
        {
            return null;
        }

        if (said.TryGetProperty("detail", out var detail) && detail.ValueKind == JsonValueKind.String)
        {
            return detail.GetString();
        }

        return said.TryGetProperty("error", out var error) ? WhyOf(error)
            : said.TryGetProperty("challenges", out var challenges) && challenges.ValueKind == JsonValueKind.Array
                ? challenges.EnumerateArray().Select(WhyOf).FirstOrDefault(w => w is not null) : null;
    }

    private static async Task<string> TextOfAsync(HttpResponseMessage response, CancellationToken stop)
    {
        await response.Content.LoadIntoBufferAsync(MostBytes, stop);
        return await response.Content.ReadAsStringAsync(stop);
    }
}
