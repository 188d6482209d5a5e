using System.Net;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People.Consents;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Storage;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Service.Audio;

/// <summary>Whoever reads by a feed's address.</summary>
/// <param name="One">The subscriber.</param>
/// <param name="Live">The member, and what they hold.</param>
public sealed record FeedReader(Subscriber One, LiveSession Live)
{
    private long noted = One.ReadAt?.UtcTicks ?? 0;

    /// <summary>Who that is now: a member as with a cookie, a guest where they are none any more or agreed to no terms that they are asked to.</summary>
    public RequestIdentity From(Policy policy, IPAddress? address, DateTimeOffset now) =>
        Live.IsKeptOut(TermsBook.Of(policy), now) ? new RequestIdentity(Visitor.Guest.From(address), null) : Live.From(address);

    /// <summary>Whether it is time to note that the feed is read.</summary>
    public bool IsToNote(DateTimeOffset now)
    {
        var last = Interlocked.Read(ref noted);
        return now.UtcTicks - last >= SubscriberCommands.Rest.Ticks && Interlocked.CompareExchange(ref noted, now.UtcTicks, last) == last;
    }
}

/// <summary>
/// Who reads by which feed's address. An address that we never gave is found out before the store is asked; what ends the address, the member or what they
/// hold ends it here at once, on every machine.
/// </summary>
public sealed class FeedReaders(Store store, Secrets secrets, SessionCache cache)
{
    private const int Most = 20_000;
    private readonly Recent<FeedReader> lately = new(Most);

    /// <summary>The reader of an address; null where it is none. It is over where the subscriber has another by now.</summary>
    public async ValueTask<(FeedReader? Reader, bool IsOver)> FindAsync(string token, DateTimeOffset now, CancellationToken stop)
    {
        if (lately.TryGet(token, out var known) && known.Live.Seen.IsCurrent())
        {
            return (known, false);
        }

        if (secrets.ReadFeedToken(token) is not var (id, number) || await store.SubscriberAsync(id, stop) is not { } there)
        {
            return default;
        }

        var seen = cache.Look();
        seen.On(Told.Member, there.Member.ToString("N"));
        // Read again now that changes are noted: what changed before this is in it, what changes later is told.
        if (await store.SubscriberAsync(id, stop) is not { } one || await store.MemberAsync(one.Member, stop) is not { } member)
        {
            return default;
        }

        if (one.Number != number)
        {
            return (null, number < one.Number);
        }

        var stored = new StoredSession(id, SessionPurpose.Site, member.Id, null, now, now, DateTimeOffset.MaxValue, null, null, []);
        var reader = new FeedReader(one, new LiveSession(stored, member.AsVisitor(), member.Id, seen) { Said = member.Said });
        if (seen.IsCurrent())
        {
            lately.Keep(token, reader);
        }

        return (reader, false);
    }
}
