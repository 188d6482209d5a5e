using Microsoft.EntityFrameworkCore;
using WarySentinel.Storage.Nodes;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>What a session is for; each purpose has a cookie of its own.</summary>
public enum SessionPurpose
{
    /// <summary>A visitor of the site.</summary>
    Site,
    /// <summary>Somebody in the console.</summary>
    Console,
    /// <summary>Somebody who looks at the site through another's eyes.</summary>
    View,
    /// <summary>What a visitor unlocked until the browser is closed.</summary>
    Passing,
}

/// <summary>What a shared password unlocked in a session.</summary>
public sealed record StoredUnlock(string Gate, Guid Password, DateTimeOffset Until);

/// <summary>A browser's session.</summary>
public sealed record StoredSession(
    Guid Id, SessionPurpose Purpose, Guid? Member, string? View, DateTimeOffset CreatedAt, DateTimeOffset SeenAt, DateTimeOffset Until,
    string? Network, string? Agent, IReadOnlyList<StoredUnlock> Unlocks)
{
    /// <summary>The console session that it was made in, and ends with.</summary>
    public Guid? MadeBySession { get; init; }

    /// <summary>The access token that it was made with, and ends with.</summary>
    public Guid? MadeByToken { get; init; }

    /// <summary>Whether it is a link still, that nobody has used.</summary>
    public bool IsTicket { get; init; }

    /// <summary>The pass that somebody came in by.</summary>
    public Guid? Pass { get; init; }

    /// <summary>Until when the pass counts in it.</summary>
    public DateTimeOffset? PassUntil { get; init; }
}

/// <summary>Sessions, and what is unlocked in them.</summary>
public sealed partial class Store
{
    /// <summary>Keeps a new session, with an entry of the audit trail where one is to be made.</summary>
    public Task BeginSessionAsync(StoredSession session, AuditNote? note = null, CancellationToken stop = default) => WriteAsync(
        async writing =>
        {
            if (session is { Member: { } member, Purpose: SessionPurpose.Site })
            {
                await writing.Db.Members.Where(m => m.Id == member).ExecuteUpdateAsync(set => set.SetProperty(m => m.SeenAt, session.CreatedAt), stop);
            }

            writing.Rows.Insert(SessionRow.Of(session));
            session.Unlocks.ToList().ForEach(u => writing.Rows.Insert(UnlockRow.Of(session.Id, u)));
            if (note is not null)
            {
                writing.Note(note);
            }

            return true;
        },
        stop);

    /// <summary>The session of that id, or null.</summary>
    public async Task<StoredSession?> SessionAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        var row = await db.Sessions.AsNoTracking().Include(s => s.Unlocks).FirstOrDefaultAsync(s => s.Id == id, stop);
        return row is null ? null : ToSession(row);
    }

    /// <summary>Makes a session of a link, once: null where it was used before, or is over.</summary>
    public async Task<StoredSession?> RedeemAsync(
        Guid id, DateTimeOffset until, string? network, string? agent, AuditNote note, CancellationToken stop = default)
    {
        var now = time.GetUtcNow();
        var (redeemed, _) = await WriteAsync(
            async writing =>
            {
                var once = await writing.Db.Sessions.Where(s => s.Id == id && s.IsTicket && s.Until > now).ExecuteUpdateAsync(
                    set => set.SetProperty(s => s.IsTicket, false).SetProperty(s => s.Until, until).SetProperty(s => s.SeenAt, now)
                    .SetProperty(s => s.Network, network).SetProperty(s => s.Agent, agent), stop) > 0;
                if (once)
                {
                    writing.Note(note);
                }

                return once;
            },
            stop);
        return redeemed ? await SessionAsync(id, stop) : null;
    }

    /// <summary>Sessions not yet over, newest first; of one member, or of all.</summary>
    public async Task<IReadOnlyList<StoredSession>> SessionsAsync(Guid? member, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        var rows = await db.Sessions.AsNoTracking().Include(s => s.Unlocks)
            .Where(s => s.Until > now && !s.IsTicket && (member == null || s.MemberId == member)).OrderByDescending(s => s.CreatedAt).Take(most)
            .ToListAsync(stop);
        return [.. rows.Select(ToSession)];
    }

    /// <summary>Ends a session, with those that were made in it; tells which. None where it was over already.</summary>
    public async Task<IReadOnlyList<News>> EndSessionAsync(Guid id, CancellationToken stop = default)
    {
        var (ended, news) = await WriteAsync(
            async writing =>
            {
                var over = await writing.Db.Sessions.Where(s => s.Id == id || s.MadeBySession == id).Select(s => s.Id).ToListAsync(stop);
                over.ForEach(s => writing.News.Tell(Told.Session, s.ToString("N")));
                await writing.Db.Sessions.Where(s => over.Contains(s.Id)).ExecuteDeleteAsync(stop);
                return over.Contains(id);
            },
            stop);
        return ended ? news : [];
    }

    /// <summary>Drops sessions that are over.</summary>
    public async Task<int> SweepSessionsAsync(CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        var now = time.GetUtcNow();
        return await db.Sessions.Where(s => s.Until <= now).ExecuteDeleteAsync(stop);
    }

    /// <summary>Keeps what passwords unlocked in a session.</summary>
    public async Task<IReadOnlyList<News>> UnlockAsync(
        Guid session, IReadOnlyList<StoredUnlock> unlocks, DateTimeOffset sessionUntil, CancellationToken stop = default)
    {
        var passwords = unlocks.Select(u => u.Password).ToList();
        var (_, told) = await WriteAsync(
            async writing =>
            {
                var db = writing.Db;
                await db.Unlocks.Where(u => u.SessionId == session && passwords.Contains(u.PasswordId)).ExecuteDeleteAsync(stop);
                unlocks.ToList().ForEach(u => writing.Rows.Insert(UnlockRow.Of(session, u)));
                await db.Sessions.Where(s => s.Id == session && s.Until < sessionUntil)
                    .ExecuteUpdateAsync(set => set.SetProperty(s => s.Until, sessionUntil), stop);
                writing.News.Tell(Told.Session, session.ToString("N"));
                return true;
            },
            stop);
        return told;
    }

    private static StoredSession ToSession(SessionRow row) => new(
        row.Id, (SessionPurpose)row.Purpose, row.MemberId, row.View, row.CreatedAt, row.SeenAt, row.Until, row.Network, row.Agent,
        [.. row.Unlocks.Select(u => new StoredUnlock(u.Gate, u.PasswordId, u.Until))])
    { MadeBySession = row.MadeBySession, MadeByToken = row.MadeByToken, IsTicket = row.IsTicket, Pass = row.PassId, PassUntil = row.PassUntil };
}
