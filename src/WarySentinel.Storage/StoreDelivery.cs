using Microsoft.EntityFrameworkCore;

namespace WarySentinel.Storage;

/// <summary>A message that waits to be sent.</summary>
public sealed record WaitingMessage(Guid Id, string To, string Subject, string Body, int Tries);

/// <summary>A message as the owner sees it; its text is not told.</summary>
public sealed record MessageState(Guid Id, string To, string Subject, DateTimeOffset CreatedAt, DateTimeOffset? SentAt, int Tries, string? Fault);

/// <summary>What a sweep found, as it is kept.</summary>
public sealed record StoredSweep(Guid Id, DateTimeOffset StartedAt, DateTimeOffset EndedAt, string By, int Leaks, string Report);

/// <summary>The outbox, and what sweeps found.</summary>
public sealed partial class Store
{
    private const int SweepsKept = 50;

    /// <summary>Takes messages that are due for this node to send: each is held back from the others until <paramref name="holdUntil"/>.</summary>
    public async Task<IReadOnlyList<WaitingMessage>> TakeMessagesAsync(int most, DateTimeOffset holdUntil, CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        var due = await db.Outbox.AsNoTracking().Where(m => m.SentAt == null && m.NextTryAt <= now).OrderBy(m => m.NextTryAt).Take(most).ToListAsync(stop);
        var mine = new List<WaitingMessage>();
        foreach (var row in due)
        {
            var taken = await db.Outbox.Where(m => m.Id == row.Id && m.SentAt == null && m.NextTryAt == row.NextTryAt)
                .ExecuteUpdateAsync(set => set.SetProperty(m => m.NextTryAt, holdUntil).SetProperty(m => m.Tries, m => m.Tries + 1), stop);
            if (taken == 1)
            {
                mine.Add(new WaitingMessage(row.Id, row.To, row.Subject, row.Body, row.Tries + 1));
            }
        }

        return mine;
    }

    /// <summary>Marks a message as sent and drops its text.</summary>
    public async Task MessageSentAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        await db.Outbox.Where(m => m.Id == id).ExecuteUpdateAsync(
            set => set.SetProperty(m => m.SentAt, now).SetProperty(m => m.Body, "").SetProperty(m => m.Fault, (string?)null), stop);
    }

    /// <summary>Says why a message could not be sent, and when to try again.</summary>
    public async Task MessageFailedAsync(Guid id, string fault, DateTimeOffset nextTry, CancellationToken stop = default)
    {
        await using var db = open();
        await db.Outbox.Where(m => m.Id == id).ExecuteUpdateAsync(set => set.SetProperty(m => m.Fault, fault).SetProperty(m => m.NextTryAt, nextTry), stop);
    }

    /// <summary>Messages, newest first.</summary>
    public async Task<IReadOnlyList<MessageState>> MessagesAsync(int most, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.Outbox.AsNoTracking().OrderByDescending(m => m.CreatedAt).Take(most).ToListAsync(stop);
        return [.. rows.Select(m => new MessageState(m.Id, m.To, m.Subject, m.CreatedAt, m.SentAt, m.Tries, m.Fault))];
    }

    /// <summary>Keeps what a sweep found; the oldest go.</summary>
    public async Task KeepSweepAsync(StoredSweep sweep, CancellationToken stop = default)
    {
        await using var db = open();
        db.Sweeps.Add(new Access.SweepRow
        {
            Id = sweep.Id, StartedAt = sweep.StartedAt, EndedAt = sweep.EndedAt, By = sweep.By, Leaks = sweep.Leaks, Report = sweep.Report,
        });
        await db.SaveChangesAsync(stop);
        var old = await db.Sweeps.OrderByDescending(s => s.StartedAt).Skip(SweepsKept).Select(s => s.Id).ToListAsync(stop);
        await db.Sweeps.Where(s => old.Contains(s.Id)).ExecuteDeleteAsync(stop);
    }

    /// <summary>Sweeps, newest first.</summary>
    public async Task<IReadOnlyList<StoredSweep>> SweepsAsync(int most, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.Sweeps.AsNoTracking().OrderByDescending(s => s.StartedAt).Take(most).ToListAsync(stop);
        return [.. rows.Select(s => new StoredSweep(s.Id, s.StartedAt, s.EndedAt, s.By, s.Leaks, s.Report))];
    }

    /// <summary>Takes a turn at something that one node does at a time; false when another has it, or had it lately.</summary>
    /// <param name="name">What it is.</param>
    /// <param name="notBefore">The turn is free when it was last taken before this time.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<bool> TakeTurnAsync(string name, DateTimeOffset notBefore, CancellationToken stop = default)
    {
        await using var db = open();
        var (mark, now, last) = ("turn:" + name, time.GetUtcNow().UtcTicks, notBefore.UtcTicks);
        if (await db.Marks.Where(m => m.Name == mark && m.Number < last).ExecuteUpdateAsync(set => set.SetProperty(m => m.Number, now), stop) == 1)
        {
            return true;
        }

        if (await db.Marks.AnyAsync(m => m.Name == mark, stop))
        {
            return false;
        }

        db.Marks.Add(new MarkRow { Name = mark, Number = now });
        try
        {
            await db.SaveChangesAsync(stop);
            return true;
        }
        catch (DbUpdateException)
        {
            return false;
        }
    }
}
