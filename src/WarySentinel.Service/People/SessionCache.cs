using System.Diagnostics.CodeAnalysis;
using System.Net;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People.Consents;
using WarySentinel.Service.Nodes;
using WarySentinel.Storage;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Service.People;

/// <summary>A session as the cache holds it: who it is, and until when it counts.</summary>
/// <param name="Stored">The session.</param>
/// <param name="Visitor">The facts.</param>
/// <param name="Member">Who signed in, if somebody did.</param>
/// <param name="Seen">What it was read with; where any of that has changed since, it is read again.</param>
public sealed record LiveSession(StoredSession Stored, Visitor Visitor, Guid? Member, Seen Seen)
{
    /// <summary>What they said last to each of the site's terms.</summary>
    public IReadOnlyList<Consented> Said { get; init; } = [];

    private volatile RequestIdentity? last;
    private volatile TermsVerdict? verdict;

    /// <summary>Whether terms keep them out. On the path of every request of a member: found out once, and again when time or the terms change it.</summary>
    public bool IsKeptOut(TermsBook terms, DateTimeOffset now)
    {
        var kept = verdict;
        return (kept?.Holds(terms, now) == true ? kept : verdict = terms.VerdictFor(Visitor, Said, now)).KeepsOut;
    }

    /// <summary>The identity of this session from an address; the last one is kept, as browsers rarely move.</summary>
    public RequestIdentity From(IPAddress? address)
    {
        var kept = last;
        return kept is not null && Equals(kept.Visitor.Address, address) ? kept : last = new RequestIdentity(Visitor.From(address), null);
    }
}

/// <summary>How often what something hangs on had changed when it was read. Taken before it is read, it misses nothing.</summary>
public sealed class Seen
{
    private readonly List<(int Place, int Count)> marks = [];
    private readonly Changes changes;
    private readonly int unlocks;

    internal Seen(Changes changes) => (this.changes, unlocks) = (changes, changes.UnlocksEnded);

    /// <summary>Notes that it hangs on something, which is read after this.</summary>
    public void On(Told kind, string name) => marks.Add(changes.MarkOf(kind, name));

    /// <summary>Notes what unlocked something in it, once that is read; false where passwords ended while it was.</summary>
    public bool OnUnlocks(IReadOnlyList<StoredUnlock> all)
    {
        foreach (var unlock in all)
        {
            On(Told.Password, unlock.Password.ToString("N"));
            On(Told.Gate, unlock.Gate);
        }

        return all.Count == 0 || unlocks == changes.UnlocksEnded;
    }

    /// <summary>Whether nothing that it hangs on has changed since. On the path of every request of a signed-in visitor: a few reads, no allocation.</summary>
    public bool IsCurrent()
    {
        for (var i = 0; i < marks.Count; i++)
        {
            if (changes.CountAt(marks[i].Place) != marks[i].Count)
            {
                return false;
            }
        }

        return true;
    }
}

/// <summary>
/// Counts how often each member, session, password and gate has changed, as far as sessions hang on it. Names share 65,536 counts: where two share one,
/// a change of the one has the other read again, and nothing more.
/// </summary>
public sealed class Changes
{
    private readonly int[] counts = new int[1 << 16];
    private int unlocksEnded;

    /// <summary>How often passwords or gates ended.</summary>
    public int UnlocksEnded => Volatile.Read(ref unlocksEnded);

    /// <summary>Something has changed.</summary>
    public void Note(News news)
    {
        Interlocked.Increment(ref counts[PlaceOf(news.Kind, news.Name)]);
        if (news.Kind is Told.Password or Told.Gate)
        {
            Interlocked.Increment(ref unlocksEnded);
        }
    }

    /// <summary>Everything may have changed: this machine has lost its place in the feed.</summary>
    public void NoteAll()
    {
        for (var place = 0; place < counts.Length; place++)
        {
            Interlocked.Increment(ref counts[place]);
        }

        Interlocked.Increment(ref unlocksEnded);
    }

    internal int CountAt(int place) => Volatile.Read(ref counts[place]);

    internal (int Place, int Count) MarkOf(Told kind, string name) => PlaceOf(kind, name) is var place ? (place, CountAt(place)) : default;

    private int PlaceOf(Told kind, string name) => (int)((uint)HashCode.Combine(kind, name) % counts.Length);
}

/// <summary>Sessions lately seen, by ticket; a full cache drops those not seen for longest. What has changed is read again, and only that.</summary>
public sealed class SessionCache : INewsReader
{
    private const int Most = 100_000;
    private readonly Recent<LiveSession> byTicket = new(Most);

    /// <summary>What has changed, as far as sessions hang on it.</summary>
    public Changes Changes { get; } = new();

    /// <summary>An empty one, that listens for changes.</summary>
    public SessionCache(Hearsay hearsay) => hearsay.Add(this);

    /// <inheritdoc/>
    public void Hear(News news)
    {
        if (news.Kind == Told.Members)
        {
            Changes.NoteAll();
        }
        else if (news.Kind != Told.Policy)
        {
            Changes.Note(news);
        }
    }

    /// <inheritdoc/>
    public void Lost() => Changes.NoteAll();

    /// <summary>Begins to read a session.</summary>
    public Seen Look() => new(Changes);

    /// <summary>The session of a ticket, if it was lately seen and nothing of it has changed. On the path of every request: no allocation.</summary>
    public bool TryGet(ReadOnlySpan<char> ticket, [NotNullWhen(true)] out LiveSession? session) =>
        byTicket.TryGet(ticket, out session) && session.Seen.IsCurrent();

    /// <summary>Keeps a session.</summary>
    public void Keep(string ticket, LiveSession session) => byTicket.Keep(ticket, session);
}
