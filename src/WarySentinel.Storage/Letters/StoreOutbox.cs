using Microsoft.EntityFrameworkCore;
using WarySentinel.Storage.Letters;

namespace WarySentinel.Storage;

/// <summary>A letter that one machine has taken to send.</summary>
public sealed record WaitingMessage(Guid Id, string To, string Subject, string Body, int Tries);

/// <summary>Where a letter is.</summary>
public enum LetterState
{
    /// <summary>On its way, or to be tried again.</summary>
    Waiting,
    /// <summary>Taken by the mail server.</summary>
    Sent,
    /// <summary>Tried often enough; nobody tries any more.</summary>
    GivenUp,
}

/// <summary>A letter as the owner sees it; its text is not told.</summary>
public sealed record MessageState(
    Guid Id, string To, string Subject, DateTimeOffset CreatedAt, DateTimeOffset? SentAt, DateTimeOffset? GivenUpAt, DateTimeOffset? NextTryAt, int Tries,
    string? Fault)
{
    /// <summary>Where it is.</summary>
    public LetterState State => SentAt is not null ? LetterState.Sent : GivenUpAt is not null ? LetterState.GivenUp : LetterState.Waiting;

    /// <summary>The same, as it is told.</summary>
    public string StateName => NameOf(State);

    /// <summary>A state as it is told.</summary>
    public static string NameOf(LetterState state) => state switch { LetterState.Sent => "sent", LetterState.GivenUp => "given-up", _ => "waiting" };
}

/// <summary>The outbox.</summary>
public sealed partial class Store
{
    private const int Tempted = 20;

    /// <summary>
    /// Takes one letter that is due for this machine to send: it is held back from the others until <paramref name="holdUntil"/>, which is later than
    /// its attempt can last. Null where none is due.
    /// </summary>
    public async Task<WaitingMessage?> TakeMessageAsync(DateTimeOffset holdUntil, CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        var due = await db.Outbox.AsNoTracking().Where(m => m.SentAt == null && m.GivenUpAt == null && m.NextTryAt <= now).OrderBy(m => m.NextTryAt)
            .Take(Tempted).ToListAsync(stop);
        foreach (var row in due)
        {
            using var turn = await TurnToWriteAsync(stop);
            var taken = await db.Outbox.Where(m => m.Id == row.Id && m.SentAt == null && m.GivenUpAt == null && m.NextTryAt == row.NextTryAt)
                .ExecuteUpdateAsync(set => set.SetProperty(m => m.NextTryAt, holdUntil).SetProperty(m => m.Tries, m => m.Tries + 1), stop);
            if (taken == 1)
            {
                return new WaitingMessage(row.Id, row.To, row.Subject, row.Body, row.Tries + 1);
            }
        }

        return null;
    }

    /// <summary>Marks a letter as sent and drops its text.</summary>
    public async Task MessageSentAsync(Guid id, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        var now = time.GetUtcNow();
        await db.Outbox.Where(m => m.Id == id).ExecuteUpdateAsync(
            set => set.SetProperty(m => m.SentAt, now).SetProperty(m => m.Body, "").SetProperty(m => m.Fault, (string?)null), stop);
    }

    /// <summary>Says why a letter could not be sent, and when to try again; never again where no time is given.</summary>
    public async Task MessageFailedAsync(Guid id, string fault, DateTimeOffset? nextTry, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        var (now, said) = (time.GetUtcNow(), fault.Length > 500 ? fault[..500] : fault);
        await db.Outbox.Where(m => m.Id == id).ExecuteUpdateAsync(
            set => set.SetProperty(m => m.Fault, said).SetProperty(m => m.NextTryAt, nextTry ?? now)
            .SetProperty(m => m.GivenUpAt, nextTry == null ? now : null), stop);
    }

    /// <summary>Letters, newest first; all, or those in one state, or to one address.</summary>
    public async Task<IReadOnlyList<MessageState>> MessagesAsync(int most, LetterState? state = null, string? to = null, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await In(db, state).Where(m => to == null || m.To == to).OrderByDescending(m => m.CreatedAt).Take(most).ToListAsync(stop);
        return [.. rows.Select(ToState)];
    }

    /// <summary>How many letters are in a state.</summary>
    public async Task<int> MessageCountAsync(LetterState state, CancellationToken stop = default)
    {
        await using var db = open();
        return await In(db, state).CountAsync(stop);
    }

    /// <summary>Puts a letter that was given up, or waits, on its way again at once; false where there is no such letter.</summary>
    public Task<bool> ResendAsync(Guid id, string by, CancellationToken stop = default) => LetterAsync(
        id, by, "letter.resend", async (letter, now) => await letter.ExecuteUpdateAsync(
            set => set.SetProperty(m => m.NextTryAt, now).SetProperty(m => m.GivenUpAt, (DateTimeOffset?)null).SetProperty(m => m.Tries, 0), stop), stop);

    /// <summary>Drops a letter that is not sent, with its text; false where there is no such letter.</summary>
    public Task<bool> DropMessageAsync(Guid id, string by, CancellationToken stop = default) =>
        LetterAsync(id, by, "letter.drop", async (letter, _) => await letter.ExecuteDeleteAsync(stop), stop);

    /// <summary>Removes letters that were sent or given up before a time.</summary>
    public async Task<int> TrimMessagesAsync(DateTimeOffset before, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        return await db.Outbox.Where(m => m.SentAt < before || m.GivenUpAt < before).ExecuteDeleteAsync(stop);
    }

    private async Task<bool> LetterAsync(
        Guid id, string by, string action, Func<IQueryable<OutboxRow>, DateTimeOffset, Task<int>> act, CancellationToken stop)
    {
        var (done, _) = await WriteAsync(
            async writing =>
            {
                var (db, now) = (writing.Db, writing.Now);
                var to = await db.Outbox.Where(m => m.Id == id && m.SentAt == null).Select(m => m.To).FirstOrDefaultAsync(stop);
                if (to is null || await act(db.Outbox.Where(m => m.Id == id && m.SentAt == null), now) == 0)
                {
                    return false;
                }

                writing.Note(new AuditNote(by, action, to));
                return true;
            },
            stop);
        return done;
    }

    private static IQueryable<OutboxRow> In(StoreContext db, LetterState? state) => state switch
    {
        LetterState.Sent => db.Outbox.AsNoTracking().Where(m => m.SentAt != null),
        LetterState.GivenUp => db.Outbox.AsNoTracking().Where(m => m.SentAt == null && m.GivenUpAt != null),
        LetterState.Waiting => db.Outbox.AsNoTracking().Where(m => m.SentAt == null && m.GivenUpAt == null),
        _ => db.Outbox.AsNoTracking(),
    };

    private static MessageState ToState(OutboxRow m) => new(
        m.Id, m.To, m.Subject, m.CreatedAt, m.SentAt, m.GivenUpAt, m.SentAt is null && m.GivenUpAt is null ? m.NextTryAt : null, m.Tries, m.Fault);
}
