using System.Buffers.Text;
using System.Net;
using System.Security.Cryptography;
using System.Text;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Service.People;

/// <summary>That a name and password with this request were wrong, and how long to wait.</summary>
public sealed record BasicRefused(TimeSpan Wait, string? Words);

/// <summary>
/// A name and password that come with the request (RFC 7617), as download tools send them, for gates that take them. They are looked at only where such a
/// gate refuses without them, proved as on the sign-in page, and known for a while by a keyed digest of the header; what is wrong is never known. Whatever
/// ends the pass, the member or the password ends that at once, on every machine.
/// </summary>
public sealed class BasicCredentials(
    SignIn signIn, IPasses passes, SessionCache cache, PolicyHolder policies, Store store, ILogger<BasicCredentials> log)
{
    private const int Most = 20_000;
    private const int LongestHeader = 1024;
    private const int MostAddressBytes = 16;
    private static readonly TimeSpan Lasts = TimeSpan.FromHours(12);
    private static readonly UTF8Encoding Strict = new(false, true);
    private readonly byte[] key = RandomNumberGenerator.GetBytes(32);
    private readonly Recent<Known> lately = new(Most);

    /// <summary>Who comes with the request's name and password; null where none came, no gate takes them here, or they are wrong.</summary>
    /// <remarks>On the path of every request that sends them: one HMAC, no allocation where they are known (docs/performance.md).</remarks>
    public ValueTask<RequestIdentity?> ReadAsync(HttpContext http, RequestIdentity identity, Policy policy, RequestPath path, DateTimeOffset now)
    {
        var header = http.Request.Headers.Authorization;
        if (header.Count != 1 || header[0] is not { Length: > 6 and <= LongestHeader } text || identity.Viewpoint is not null
            || !text.StartsWith("Basic ", StringComparison.OrdinalIgnoreCase))
        {
            return default;
        }

        Span<char> name = stackalloc char[64];
        Name(text, http.Connection.RemoteIpAddress, name);
        if (lately.TryGet(name, out var known) && known.Live.Seen.IsCurrent() && known.Live.Stored.Until > now)
        {
            var seen = known.Over(identity);
            return known.Live.IsKeptOut(Core.People.Consents.TermsBook.Of(policy), now)
                || (!policy.Judge(seen.Visitor, path, now).Allowed && !IsTakenAt(policy, identity, path, now))
                ? default : ValueTask.FromResult<RequestIdentity?>(Taken(http, seen));
        }

        return new ValueTask<RequestIdentity?>(ProveAsync(http, text, name.ToString(), identity, policy, path, now));
    }

    /// <summary>What asks for a name and password in place of a page; null where a gate takes none, or a browser is led to the sign-in page.</summary>
    public static string? ChallengeOf(HttpRequest request, Refusal refusal, string siteName)
    {
        var asks = refusal.Gate.Basic == BasicUse.Everybody || (refusal.Gate.Basic == BasicUse.Tools && !IsBrowser(request));
        // Whoever must not know of what is hidden reads no title of it.
        var realm = refusal.Gate.Presence == Presence.Hidden ? siteName : $"{siteName}: {refusal.Gate.Title}";
        return asks && refusal.Answer is (Answer.SignIn or Answer.Register or Answer.Password) ? $"Basic realm=\"{Quoted(realm)}\", charset=\"UTF-8\"" : null;
    }

    /// <summary>Whether somebody reads with a browser: it says how it fetches (Fetch Metadata §2), asks for pages, or is called like one.</summary>
    public static bool IsBrowser(HttpRequest request) => request.Headers.ContainsKey("Sec-Fetch-Mode")
        || request.Headers.Accept.ToString().Contains("text/html", StringComparison.OrdinalIgnoreCase)
        || request.Headers.UserAgent.ToString().StartsWith("Mozilla/", StringComparison.OrdinalIgnoreCase);

    private async Task<RequestIdentity?> ProveAsync(
        HttpContext http, string header, string name, RequestIdentity identity, Policy policy, RequestPath path, DateTimeOffset now)
    {
        if (!IsTakenAt(policy, identity, path, now) || Parse(header) is not var (user, password))
        {
            return null;
        }

        var tried = await signIn.TryAsync(user, password, new TryFrom(Networks.Of(http), KnownBrowser.None), http.RequestAborted, true);
        var live = tried.Pass is { } pass ? await LiveOfAsync(pass, tried.PassUntil, now, http.RequestAborted)
            : tried.Member is { } member ? await LiveOfAsync(member, now, http.RequestAborted) : null;
        if (live is null)
        {
            http.Features.Set(new BasicRefused(tried.Busy ? TimeSpan.FromSeconds(3) : tried.Wait, tried.Words));
            return null;
        }

        var known = new Known(live);
        if (live.Seen.IsCurrent())
        {
            lately.Keep(name, known);
        }

        return live.IsKeptOut(Core.People.Consents.TermsBook.Of(policy), now) ? null : Taken(http, known.Over(identity));
    }

    /// <summary>Whether a gate refuses without them that takes them.</summary>
    private static bool IsTakenAt(Policy policy, RequestIdentity identity, RequestPath path, DateTimeOffset now) =>
        policy.Decide(identity.Visitor, path, Acts.Open, now).Reasons.Any(r => r is { Guards: true, Admitted: false, Gate.Basic: not BasicUse.No });

    private async Task<LiveSession?> LiveOfAsync(HeldPass proved, DateTimeOffset? until, DateTimeOffset now, CancellationToken stop)
    {
        var seen = cache.Look();
        seen.On(Told.Pass, proved.Id.ToString("N"));
        return await passes.FindAsync(proved.Id, stop) is { } pass && pass.Version == proved.Version
            ? new LiveSession(StoredUntil(now, until), Visitor.Guest.Holding(pass.Grant), null, seen) : null;
    }

    /// <summary>A member by name and password. Who may change the site is not let in so: their password would travel with every request.</summary>
    private async Task<LiveSession?> LiveOfAsync(Member proved, DateTimeOffset now, CancellationToken stop)
    {
        var seen = cache.Look();
        seen.On(Told.Member, proved.Id.ToString("N"));
        if (await store.MemberAsync(proved.Id, stop) is not { Status: MemberStatus.Active } member || !Equals(member.PasswordHash, proved.PasswordHash))
        {
            return null;
        }

        if (StaffRights.Of(policies.Current, member, now) != StaffRight.None)
        {
            log.LogInformation("Somebody of the staff came by name and password with a request, and was not let in");
            return null;
        }

        return new LiveSession(StoredUntil(now, null), member.AsVisitor(), member.Id, seen) { Said = member.Said };
    }

    private static StoredSession StoredUntil(DateTimeOffset now, DateTimeOffset? end) => new(
        Guid.Empty, SessionPurpose.Site, null, null, now, now, end is { } until && until < now + Lasts ? until : now + Lasts, null, null, []);

    /// <summary>What was meant for us is not told to the site.</summary>
    private static RequestIdentity Taken(HttpContext http, RequestIdentity identity)
    {
        http.Request.Headers.Remove("Authorization");
        return identity;
    }

    /// <summary>The name under which a header from an address is known: a keyed digest of both.</summary>
    private void Name(string header, IPAddress? from, Span<char> name)
    {
        Span<byte> bytes = stackalloc byte[(LongestHeader * 3) + MostAddressBytes], digest = stackalloc byte[32];
        var length = 0;
        from?.TryWriteBytes(bytes, out length);
        length += Encoding.UTF8.GetBytes(header, bytes[length..]);
        HMACSHA256.HashData(key, bytes[..length], digest);
        Convert.TryToHexStringLower(digest, name, out _);
    }

    /// <summary>The name and the password of a header; null where it holds none (RFC 7617 §2).</summary>
    private static (string User, string Password)? Parse(string header)
    {
        try
        {
            var text = Strict.GetString(Convert.FromBase64String(header["Basic ".Length..].Trim()));
            var colon = text.IndexOf(':', StringComparison.Ordinal);
            return colon > 0 && !text.Any(char.IsControl) ? (text[..colon], text[(colon + 1)..]) : null;
        }
        catch (Exception fault) when (fault is FormatException or DecoderFallbackException)
        {
            return null;
        }
    }

    /// <summary>A text that may stand between quotes in a header (RFC 9110 §5.6.4); another where nothing is left of it.</summary>
    private static string Quoted(string text)
    {
        var plain = new string([.. text.Normalize(NormalizationForm.FormD).Where(c => c is >= ' ' and <= '~' and not ('"' or '\\'))]).Trim();
        return plain.Any(char.IsAsciiLetterOrDigit) ? plain : "site";
    }

    /// <summary>Who a header stands for; the last visitor that it was laid over is kept, as tools rarely send cookies.</summary>
    private sealed class Known(LiveSession live)
    {
        private volatile RequestIdentity? last;

        public LiveSession Live => live;

        public RequestIdentity Over(RequestIdentity bare) => last is { } kept && ReferenceEquals(kept.Visitor.Bare, bare.Visitor) ? kept
            : last = new RequestIdentity(live.Visitor.Over(bare.Visitor), null);
    }
}
