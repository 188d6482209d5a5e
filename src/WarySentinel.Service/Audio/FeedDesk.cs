using WarySentinel.Core;
using WarySentinel.Core.Audio;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Audio;

/// <summary>Gives members feed addresses of their own, and others in their place.</summary>
internal static class FeedDesk
{
    /// <summary>The subscriber that a member is of a show, made where there is none yet; with another address where that is wanted.</summary>
    public static Task<Outcome<Subscriber>> GiveAsync(
        Store store, PeopleLane people, Guid member, string email, Show show, bool another, string by, DateTimeOffset now, CancellationToken stop) =>
        people.ChangeAsync<Subscriber>(
            async () =>
            {
                var there = await store.SubscriberAsync(member, show.Key, stop);
                return there is not null && another ? SubscriberCommands.Renew(there, email, now)
                    : SubscriberCommands.Open(there, member, email, show.Key, Guid.CreateVersion7(), now);
            },
            by);
}
