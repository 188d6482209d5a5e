namespace WarySentinel.Core.Audio;

/// <summary>
/// A subscriber: one member, one show, and a feed address of their own. The address is kept nowhere: it is reckoned from what stands here and the service's
/// secret (docs/how-to/shows.md).
/// </summary>
/// <param name="Id">Its own name.</param>
/// <param name="Member">Who.</param>
/// <param name="Show">The key of the show.</param>
/// <param name="Number">Which address they have, from 1; those before it are over.</param>
/// <param name="Since">Since when they have it.</param>
public sealed record Subscriber(Guid Id, Guid Member, string Show, int Number, DateTimeOffset Since)
{
    /// <summary>When it was last read, to the hour or so; null for never since it is the present one.</summary>
    public DateTimeOffset? ReadAt { get; init; }

    /// <summary>What it was last read by; null where that did not say.</summary>
    public string? ReadBy { get; init; }
}

/// <summary>Keeps a subscriber; whoever does it at the same moment is the one.</summary>
public sealed record SubscriberAdded(Subscriber Subscriber) : Change.OfPeople;

/// <summary>Gives a subscriber the next address after the one of that number; refused where it has another by now.</summary>
public sealed record SubscriberRenewed(Subscriber Subscriber, int From) : Change.OfPeople;

/// <summary>Gives members feed addresses of their own.</summary>
public static class SubscriberCommands
{
    /// <summary>How long what a feed was last read by and when is left as it is.</summary>
    public static readonly TimeSpan Rest = TimeSpan.FromHours(1);

    /// <summary>Most letters of what a feed is read by that are kept.</summary>
    public const int LongestReader = 200;

    /// <summary>The subscriber that a member is: the one that there is, or a new one.</summary>
    public static Edit<Subscriber> Open(Subscriber? there, Guid member, string email, string show, Guid id, DateTimeOffset now)
    {
        var fresh = there ?? new Subscriber(id, member, show, 1, now);
        return new Edit<Subscriber>(new Edit("feed.open", email, there is null ? [new SubscriberAdded(fresh)] : [], null, show), fresh);
    }

    /// <summary>Gives a member another feed address at once; the one before is over.</summary>
    public static Edit<Subscriber> Renew(Subscriber there, string email, DateTimeOffset now)
    {
        var fresh = there with { Number = there.Number + 1, Since = now, ReadAt = null, ReadBy = null };
        return new Edit<Subscriber>(new Edit("feed.change", email, [new SubscriberRenewed(fresh, there.Number)], null, there.Show), fresh);
    }
}
