using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Letters;
using WarySentinel.Storage.Letters;

namespace WarySentinel.Storage;

/// <summary>
/// The outbox. An attempt is written down before it is made and again when its outcome is known, so that a letter is neither lost nor sent twice wherever a
/// machine dies; where nobody can know, it says so (docs/explanation/letters.md).
/// </summary>
public sealed partial class Store
{
    private const int LongestSaid = 500;

    /// <summary>
    /// Takes letters that are due for this machine to send: they are held back from the others until <paramref name="holdUntil"/>, which is later than their
    /// attempts can last. What another machine was just handing over when it was gone becomes unclear; to an address that none reaches is not written.
    /// </summary>
    /// <param name="urgent">Those that somebody waits for, or the others.</param>
    /// <param name="most">So many at most.</param>
    /// <param name="holdUntil">How long they are held back.</param>
    /// <param name="machine">The name of this machine.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<WaitingMessage>> TakeMessagesAsync(
        bool urgent, int most, DateTimeOffset holdUntil, string machine, CancellationToken stop = default)
    {
        await using (var look = open())
        {
            // Mostly there is nothing to do: that costs no turn to write.
            if (!await Due(look, urgent, time.GetUtcNow()).AnyAsync(stop))
            {
                return [];
            }
        }

        var (taken, _) = await WriteAsync(
            async writing =>
            {
                var (db, now, mine) = (writing.Db, writing.Now, new List<WaitingMessage>());
                foreach (var row in await Due(db, urgent, now).OrderBy(m => m.Urgency).ThenBy(m => m.NextTryAt).Take(most).ToListAsync(stop))
                {
                    if (await TakeAsync(writing, row, holdUntil, machine) is { } message)
                    {
                        mine.Add(message);
                    }
                }

                return mine;
            },
            stop);
        return taken;
    }

    private static async Task<WaitingMessage?> TakeAsync(Writing writing, OutboxRow row, DateTimeOffset holdUntil, string machine)
    {
        var (db, now, stop) = (writing.Db, writing.Now, writing.Stop);
        var still = db.Outbox.Where(m => m.Id == row.Id && m.SentAt == null && m.GivenUpAt == null && m.UnclearAt == null && m.NextTryAt == row.NextTryAt);
        if (row.HandedAt is not null)
        {
            await still.ExecuteUpdateAsync(set => set.SetProperty(m => m.UnclearAt, now), stop);
            await db.LetterAttempts.Where(a => a.LetterId == row.Id && a.EndedAt == null).ExecuteUpdateAsync(
                set => set.SetProperty(a => a.EndedAt, now).SetProperty(a => a.Outcome, (int)AttemptOutcome.Unclear), stop);
            return null;
        }

        if (await db.Unreachable.FirstOrDefaultAsync(u => u.Address == row.To, stop) is { } unreachable)
        {
            var said = $"{unreachable.Status} {unreachable.Said}".Trim();
            await still.ExecuteUpdateAsync(set => set.SetProperty(m => m.GivenUpAt, now).SetProperty(m => m.Fault, said), stop);
            return null;
        }

        if (await still.ExecuteUpdateAsync(set => set.SetProperty(m => m.NextTryAt, holdUntil).SetProperty(m => m.Tries, m => m.Tries + 1), stop) != 1)
        {
            return null;
        }

        var attempt = new LetterAttemptRow { Id = Guid.CreateVersion7(), LetterId = row.Id, At = now, Machine = machine };
        writing.Rows.Insert(attempt);
        return new WaitingMessage(row.Id, attempt.Id, row.To, row.Subject, row.Body, row.Kind, row.Tries + 1);
    }

    /// <summary>Writes down that a letter is handed over from now on; false where it is no longer this machine's to send.</summary>
    public async Task<bool> HandOverAsync(WaitingMessage message, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        var now = time.GetUtcNow();
        return await db.Outbox.Where(m => m.Id == message.Id && m.SentAt == null && m.GivenUpAt == null && m.UnclearAt == null && m.Tries == message.Tries
            && m.NextTryAt > now).ExecuteUpdateAsync(set => set.SetProperty(m => m.HandedAt, now), stop) == 1;
    }

    /// <summary>Marks a letter as sent and drops its text; the last letter to somebody who was erased goes altogether, address and all.</summary>
    public Task MessageSentAsync(WaitingMessage message, string? said, CancellationToken stop = default) => EndAsync(
        message, AttemptOutcome.Sent, said, (rows, now) => message.Kind == LetterKinds.Erased ? rows.ExecuteDeleteAsync(stop) : rows.ExecuteUpdateAsync(
            set => set.SetProperty(m => m.SentAt, now).SetProperty(m => m.Body, "").SetProperty(m => m.Fault, (string?)null)
            .SetProperty(m => m.HandedAt, (DateTimeOffset?)null), stop), stop);

    /// <summary>Says why a letter could not be sent, and when to try again; never again where no time is given.</summary>
    public Task MessageFailedAsync(WaitingMessage message, string fault, DateTimeOffset? nextTry, CancellationToken stop = default) => EndAsync(
        message, AttemptOutcome.Failed, fault, (rows, now) => nextTry is null && message.Kind == LetterKinds.Erased ? rows.ExecuteDeleteAsync(stop)
            : rows.ExecuteUpdateAsync(
            set => set.SetProperty(m => m.Fault, Shortened(fault)).SetProperty(m => m.NextTryAt, nextTry ?? now)
            .SetProperty(m => m.GivenUpAt, nextTry == null ? now : null).SetProperty(m => m.HandedAt, (DateTimeOffset?)null), stop), stop);

    /// <summary>Says that nobody can know whether a letter went out.</summary>
    public Task MessageUnclearAsync(WaitingMessage message, string fault, CancellationToken stop = default) => EndAsync(
        message, AttemptOutcome.Unclear, fault,
        (rows, now) => rows.ExecuteUpdateAsync(set => set.SetProperty(m => m.Fault, Shortened(fault)).SetProperty(m => m.UnclearAt, now), stop), stop);

    /// <summary>Letters, newest first; all, or those in one state, or to one address.</summary>
    public async Task<IReadOnlyList<MessageState>> MessagesAsync(
        int most, LetterState? state = null, string? to = null, (DateTimeOffset At, Guid Id)? after = null, IReadOnlyList<string>? kinds = null,
        CancellationToken stop = default)
    {
        await using var db = open();
        var such = In(db, state).Where(m => to == null || m.To == to);
        if (kinds is not null)
        {
            such = such.Where(m => kinds.Contains(m.Kind));
        }

        if (after is var (at, id))
        {
            such = such.Where(m => m.CreatedAt < at || (m.CreatedAt == at && m.Id.CompareTo(id) < 0));
        }

        var rows = await such.OrderByDescending(m => m.CreatedAt).ThenByDescending(m => m.Id).Take(most).ToListAsync(stop);
        return [.. rows.Select(ToState)];
    }

    /// <summary>One letter, and what was tried with it, the newest first; null where there is none.</summary>
    public async Task<(MessageState Letter, IReadOnlyList<LetterAttempt> Attempts)?> MessageAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        if (await db.Outbox.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, stop) is not { } row)
        {
            return null;
        }

        var attempts = await db.LetterAttempts.AsNoTracking().Where(a => a.LetterId == id).OrderByDescending(a => a.At).ThenByDescending(a => a.Id).Take(100)
            .ToListAsync(stop);
        return (ToState(row), [.. attempts.Select(a => new LetterAttempt(a.At, a.EndedAt, (AttemptOutcome)a.Outcome, a.Said, a.Machine))]);
    }

    /// <summary>How many letters are in a state; how many there are where none is named.</summary>
    public async Task<int> MessageCountAsync(LetterState? state, CancellationToken stop = default)
    {
        await using var db = open();
        return await In(db, state).CountAsync(stop);
    }

    /// <summary>Puts a letter that was given up, is unclear, or waits, on its way again at once; false where there is no such letter.</summary>
    public Task<bool> ResendAsync(Guid id, string by, CancellationToken stop = default) => LetterAsync(
        id, by, "letter.resend", async (letter, now) => await letter.ExecuteUpdateAsync(
            set => set.SetProperty(m => m.NextTryAt, now).SetProperty(m => m.GivenUpAt, (DateTimeOffset?)null)
            .SetProperty(m => m.UnclearAt, (DateTimeOffset?)null).SetProperty(m => m.HandedAt, (DateTimeOffset?)null).SetProperty(m => m.Tries, 0), stop),
        stop);

    /// <summary>Says of an unclear letter that it went out; false where there is no such letter.</summary>
    public Task<bool> ItWentOutAsync(Guid id, string by, CancellationToken stop = default) => LetterAsync(
        id, by, "letter.settle", async (letter, now) => await letter.Where(m => m.UnclearAt != null).ExecuteUpdateAsync(
            set => set.SetProperty(m => m.SentAt, m => m.HandedAt ?? now).SetProperty(m => m.UnclearAt, (DateTimeOffset?)null)
            .SetProperty(m => m.HandedAt, (DateTimeOffset?)null).SetProperty(m => m.Body, ""), stop), stop);

    /// <summary>Drops a letter that is not sent, with its text; false where there is no such letter.</summary>
    public Task<bool> DropMessageAsync(Guid id, string by, CancellationToken stop = default) =>
        LetterAsync(id, by, "letter.drop", async (letter, _) => await letter.ExecuteDeleteAsync(stop), stop);

    /// <summary>Removes letters that were sent, given up or unclear before a time.</summary>
    public async Task<int> TrimMessagesAsync(DateTimeOffset before, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        return await db.Outbox.Where(m => m.SentAt < before || m.GivenUpAt < before || m.UnclearAt < before).ExecuteDeleteAsync(stop);
    }

    /// <summary>The end of an attempt, and what becomes of its letter: unless somebody else has taken it since.</summary>
    private async Task EndAsync(
        WaitingMessage message, AttemptOutcome outcome, string? said, Func<IQueryable<OutboxRow>, DateTimeOffset, Task<int>> set, CancellationToken stop) =>
        await WriteAsync(
            async writing =>
            {
                var (db, now, words) = (writing.Db, writing.Now, said is null ? null : Shortened(said));
                await set(db.Outbox.Where(m => m.Id == message.Id && m.SentAt == null && m.Tries == message.Tries), now);
                return await db.LetterAttempts.Where(a => a.Id == message.Attempt).ExecuteUpdateAsync(
                    row => row.SetProperty(a => a.EndedAt, now).SetProperty(a => a.Outcome, (int)outcome).SetProperty(a => a.Said, words), stop);
            },
            stop);

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

    private static IQueryable<OutboxRow> Due(StoreContext db, bool urgent, DateTimeOffset now) => db.Outbox.AsNoTracking().Where(
        m => m.SentAt == null && m.GivenUpAt == null && m.UnclearAt == null && m.NextTryAt <= now
        && (urgent ? m.Urgency == (int)Urgency.Now : m.Urgency > (int)Urgency.Now));

    private static IQueryable<OutboxRow> In(StoreContext db, LetterState? state) => state switch
    {
        LetterState.Returned => db.Outbox.AsNoTracking().Where(m => m.ReturnedAt != null),
        LetterState.Sent => db.Outbox.AsNoTracking().Where(m => m.SentAt != null && m.ReturnedAt == null),
        LetterState.GivenUp => db.Outbox.AsNoTracking().Where(m => m.SentAt == null && m.GivenUpAt != null),
        LetterState.Unclear => db.Outbox.AsNoTracking().Where(m => m.SentAt == null && m.GivenUpAt == null && m.UnclearAt != null),
        LetterState.Waiting => db.Outbox.AsNoTracking().Where(m => m.SentAt == null && m.GivenUpAt == null && m.UnclearAt == null),
        _ => db.Outbox.AsNoTracking(),
    };

    private static string Shortened(string said) => said.Length > LongestSaid ? said[..LongestSaid] : said;

    private static MessageState ToState(OutboxRow m) => new(
        m.Id, m.To, m.Subject, m.Kind, (Urgency)m.Urgency, m.CreatedAt, m.SentAt, m.GivenUpAt, m.UnclearAt, m.ReturnedAt,
        m.SentAt is null && m.GivenUpAt is null && m.UnclearAt is null ? m.NextTryAt : null, m.Tries, m.Fault);
}
