using Microsoft.EntityFrameworkCore;
using Npgsql;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Storage;

/// <summary>What machines on one store know of each other: the change feed, its bell, who does what.</summary>
public sealed partial class Store
{
    private const string BellName = "wary_feed";
    private const int FeedKeptAtLeast = 10_000;

    /// <summary>A reader of the change feed for one machine.</summary>
    public Feed NewFeed() => new(open, time);

    /// <summary>Whether the store can ring when something changes; else it is looked at from time to time.</summary>
    public bool HasBell => writers is null;

    /// <summary>Hears when another machine changed something (PostgreSQL's LISTEN), until cancelled. Throws where the connection is lost.</summary>
    /// <param name="mine">This machine, whose own ringing it does not hear.</param>
    /// <param name="ready">Called once it listens.</param>
    /// <param name="rung">Called each time.</param>
    /// <param name="stop">Cancels.</param>
    public async Task HearAsync(string mine, Action ready, Action rung, CancellationToken stop)
    {
        await using var line = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(connection) { Pooling = false, KeepAlive = 15 }.ToString());
        line.Notification += (_, heard) =>
        {
            if (heard.Payload != mine)
            {
                rung();
            }
        };
        await line.OpenAsync(stop);
        await using (var listen = new NpgsqlCommand("LISTEN " + BellName, line))
        {
            await listen.ExecuteNonQueryAsync(stop);
        }

        ready();
        while (true)
        {
            await line.WaitAsync(stop);
        }
    }

    /// <summary>
    /// Lets the other machines hear that something changed. It is a hint, given after the change is stored: inside a transaction, PostgreSQL would let one
    /// commit at a time through.
    /// </summary>
    public async Task RingAsync(string mine, CancellationToken stop)
    {
        await using var db = open();
        await db.Database.ExecuteSqlAsync($"SELECT pg_notify({BellName}, {mine})", stop);
    }

    /// <summary>Drops what the feed told before a time; the newest stays, so that numbers go on from it.</summary>
    public async Task<int> TrimFeedAsync(DateTimeOffset before, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        var newest = await db.Feed.MaxAsync(f => (long?)f.Id, stop) ?? 0;
        return await db.Feed.Where(f => f.At < before && f.Id <= newest - FeedKeptAtLeast).ExecuteDeleteAsync(stop);
    }

    /// <summary>Takes something that one machine does at a time, or keeps what it holds; false where another holds it.</summary>
    /// <param name="name">What it is.</param>
    /// <param name="holder">Who takes it.</param>
    /// <param name="until">Until when, unless it is kept again before.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<bool> LeaseAsync(string name, string holder, DateTimeOffset until, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        var now = time.GetUtcNow();
        if (await db.Leases.Where(l => l.Name == name && (l.Holder == holder || l.Until <= now))
            .ExecuteUpdateAsync(set => set.SetProperty(l => l.Holder, holder).SetProperty(l => l.Until, until), stop) == 1)
        {
            return true;
        }

        return !await db.Leases.AnyAsync(l => l.Name == name, stop)
            && await FirstAsync(db, new LeaseRow { Name = name, Holder = holder, Until = until }, stop);
    }

    /// <summary>Whether any machine holds a lease at present.</summary>
    public async Task<bool> IsLeasedAsync(string name, CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        return await db.Leases.AnyAsync(l => l.Name == name && l.Until > now, stop);
    }

    /// <summary>Gives back what this machine holds.</summary>
    public async Task EndLeaseAsync(string name, string holder, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        var now = time.GetUtcNow();
        await db.Leases.Where(l => l.Name == name && l.Holder == holder).ExecuteUpdateAsync(set => set.SetProperty(l => l.Until, now), stop);
    }

    /// <summary>A number kept under a name; 0 where none is.</summary>
    public async Task<long> NumberAsync(string name, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Marks.AsNoTracking().Where(m => m.Name == name).Select(m => m.Number).FirstOrDefaultAsync(stop);
    }

    /// <summary>Keeps a number under a name.</summary>
    public async Task KeepNumberAsync(string name, long number, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        if (await db.Marks.Where(m => m.Name == name).ExecuteUpdateAsync(set => set.SetProperty(m => m.Number, number), stop) == 0)
        {
            await FirstAsync(db, new MarkRow { Name = name, Number = number }, stop);
        }
    }

    /// <summary>Whether a turn could be taken (<see cref="TakeTurnAsync"/>); nothing is written.</summary>
    public async Task<bool> IsTurnFreeAsync(string name, DateTimeOffset notBefore, CancellationToken stop = default)
    {
        await using var db = open();
        var (mark, last) = ("turn:" + name, notBefore.UtcTicks);
        return !await db.Marks.AnyAsync(m => m.Name == mark && m.Number >= last, stop);
    }

    /// <summary>Takes a turn at something that comes round by itself; false when it was taken since a time, here or elsewhere.</summary>
    /// <param name="name">What it is.</param>
    /// <param name="notBefore">The turn is free when it was last taken before this time.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<bool> TakeTurnAsync(string name, DateTimeOffset notBefore, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        var (mark, now, last) = ("turn:" + name, time.GetUtcNow().UtcTicks, notBefore.UtcTicks);
        if (await db.Marks.Where(m => m.Name == mark && m.Number < last).ExecuteUpdateAsync(set => set.SetProperty(m => m.Number, now), stop) == 1)
        {
            return true;
        }

        return !await db.Marks.AnyAsync(m => m.Name == mark, stop) && await FirstAsync(db, new MarkRow { Name = mark, Number = now }, stop);
    }

    /// <summary>Adds a row unless another machine was faster.</summary>
    private static async Task<bool> FirstAsync<TRow>(StoreContext db, TRow row, CancellationToken stop)
        where TRow : class
    {
        db.Add(row);
        try
        {
            await db.SaveChangesAsync(stop);
            return true;
        }
        catch (DbUpdateException fault) when (Uniqueness.IsBroken(fault))
        {
            return false;
        }
        finally
        {
            db.ChangeTracker.Clear();
        }
    }
}
