using WarySentinel.Core.Letters;
using WarySentinel.Storage;

namespace WarySentinel.Testing;

/// <summary>Letters as tests take them: one after the other, of either way.</summary>
public static class StoreLetters
{
    /// <summary>Takes one letter that is due; null where none is.</summary>
    public static async Task<WaitingMessage?> TakeMessageAsync(this Store store, DateTimeOffset holdUntil, CancellationToken cancellationToken) =>
        await store.TakeMessagesAsync(true, 1, holdUntil, "test", cancellationToken) is [var urgent] ? urgent
        : await store.TakeMessagesAsync(false, 1, holdUntil, "test", cancellationToken) is [var other] ? other : null;

    /// <summary>A letter as if somebody had taken it.</summary>
    public static WaitingMessage AsTaken(this OutgoingMessage message, int tries = 0) =>
        new(message.Id, Guid.NewGuid(), message.To, message.Subject, message.Body, message.Kind, tries);
}
