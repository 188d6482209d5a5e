using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Storage.Access;
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
}

/// <summary>The people's side of the store.</summary>
public sealed partial class Store
{
    private const int NamesOfSet = 20;

    /// <summary>The member of that id, or null.</summary>
    public Task<Member?> MemberAsync(Guid id, CancellationToken stop = default) => OneMemberAsync(m => m.Id == id, stop);

    /// <summary>The member who signs in with that e-mail address or user name (normalised), or null.</summary>
    public Task<Member?> MemberByNameAsync(string name, CancellationToken stop = default) =>
        OneMemberAsync(m => m.Email == name || m.UserName == name, stop);

    /// <summary>Whether somebody has that e-mail address.</summary>
    public async Task<bool> IsMemberAsync(string email, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Members.AnyAsync(m => m.Email == email, stop);
    }

    /// <summary>Members by e-mail address, from the one after <paramref name="after"/>.</summary>
    public async Task<IReadOnlyList<Member>> MembersAsync(string? after, int most, string? search, CancellationToken stop = default)
    {
        await using var db = open();
        var asked = db.Members.AsNoTracking().Include(m => m.Grants).AsQueryable();
        if (after is not null)
        {
            asked = asked.Where(m => m.Email.CompareTo(after) > 0);
        }

        if (!string.IsNullOrWhiteSpace(search))
        {
            var part = search.Trim().ToLowerInvariant();
#pragma warning disable CA1304, CA1311, CA1862 // translated to SQL
            asked = asked.Where(m => m.Email.Contains(part) || m.Name.ToLower().Contains(part));
#pragma warning restore CA1304, CA1311, CA1862
        }

        var rows = await asked.OrderBy(m => m.Email).Take(most).ToListAsync(stop);
        return [.. rows.Select(m => m.ToMember())];
    }

    /// <summary>How many members there are.</summary>
    public async Task<int> MemberCountAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Members.CountAsync(stop);
    }

    /// <summary>The active members with a role in force.</summary>
    public async Task<IReadOnlyList<Member>> ActiveWithRoleAsync(string role, CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        var rows = await db.Members.AsNoTracking().Include(m => m.Grants)
            .Where(m => m.Status == (int)MemberStatus.Active && m.Grants.Any(g => g.Kind == (int)FactKind.Role && g.Key == role))
            .ToListAsync(stop);
        return [.. rows.Select(m => m.ToMember()).Where(m => m.RolesAt(now).Contains(role))];
    }

    /// <summary>How many members hold a role, group or plan, whatever its dates.</summary>
    public async Task<int> HoldersAsync(FactKind kind, string key, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Grants.CountAsync(g => g.Kind == (int)kind && g.Key == key, stop);
    }

    /// <summary>How many members hold each role, group and plan, whatever its dates.</summary>
    public async Task<IReadOnlyDictionary<(FactKind Kind, string Key), int>> HoldersAsync(CancellationToken stop = default)
    {
        await using var db = open();
        var counts = await db.Grants.GroupBy(g => new { g.Kind, g.Key }).Select(g => new { g.Key.Kind, g.Key.Key, Count = g.Count() }).ToListAsync(stop);
        return counts.ToDictionary(c => ((FactKind)c.Kind, c.Key), c => c.Count);
    }

    /// <summary>The token of that id, or null.</summary>
    public async Task<ApiToken?> TokenByIdAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Tokens.AsNoTracking().FirstOrDefaultAsync(t => t.Id == id, stop))?.ToToken();
    }

    /// <summary>The active members, gathered by the facts they hold now.</summary>
    public async Task<IReadOnlyList<FactSet>> FactSetsAsync(CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        var active = await db.Members.CountAsync(m => m.Status == (int)MemberStatus.Active, stop);
        var grants = db.Grants.AsNoTracking()
            .Where(g => (g.From == null || g.From <= now) && (g.Until == null || g.Until > now))
            .Join(db.Members.Where(m => m.Status == (int)MemberStatus.Active), g => g.MemberId, m => m.Id, (g, _) => new { g.MemberId, g.Kind, g.Key })
            .OrderBy(g => g.MemberId).ThenBy(g => g.Kind).ThenBy(g => g.Key).AsAsyncEnumerable();
        var counts = new Dictionary<string, (Visitor Visitor, int Members, List<Guid> Some)>(StringComparer.Ordinal);
        var held = new List<Grant>();
        var (who, holders) = (Guid.Empty, 0);
        void Close()
        {
            if (held.Count > 0)
            {
                var name = string.Join('\n', held.Select(h => $"{h.Kind}:{h.Key}"));
                var known = counts.TryGetValue(name, out var there) ? there
                    : (Visitor: new Visitor { IsSignedIn = true, Grants = [.. held] }, Members: 0, Some: []);
                if (known.Some.Count < NamesOfSet)
                {
                    known.Some.Add(who);
                }

                counts[name] = (known.Visitor, known.Members + 1, known.Some);
                holders++;
                held.Clear();
            }
        }

        await foreach (var grant in grants.WithCancellation(stop))
        {
            if (grant.MemberId != who)
            {
                Close();
                who = grant.MemberId;
            }

            held.Add(new Grant((FactKind)grant.Kind, grant.Key));
        }

        Close();
        var bare = await db.Members.AsNoTracking()
            .Where(m => m.Status == (int)MemberStatus.Active && !m.Grants.Any(g => (g.From == null || g.From <= now) && (g.Until == null || g.Until > now)))
            .OrderBy(m => m.Email).Take(NamesOfSet).Select(m => m.Id).ToListAsync(stop);
        counts[""] = (new Visitor { IsSignedIn = true }, active - holders, bare);
        // Names are for the eye: those of the first sets are enough.
        var some = counts.Values.SelectMany(c => c.Some).Take(2000).ToList();
        var names = await db.Members.AsNoTracking().Where(m => some.Contains(m.Id)).Select(m => new { m.Id, m.Name })
            .ToDictionaryAsync(m => m.Id, m => m.Name, stop);
        return [.. counts.Values.Where(c => c.Members > 0)
            .Select(c => new FactSet(c.Visitor, c.Members, [.. c.Some.Where(names.ContainsKey).Select(id => names[id])]))];
    }

    /// <summary>The token with that digest, or null.</summary>
    public async Task<ApiToken?> TokenAsync(string digest, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Tokens.AsNoTracking().FirstOrDefaultAsync(t => t.Digest == digest, stop))?.ToToken();
    }

    /// <summary>All tokens, newest first.</summary>
    public async Task<IReadOnlyList<ApiToken>> TokensAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return [.. (await db.Tokens.AsNoTracking().OrderByDescending(t => t.CreatedAt).ToListAsync(stop)).Select(t => t.ToToken())];
    }

    /// <summary>Keeps a new session, with an entry of the audit trail where one is to be made.</summary>
    public async Task BeginSessionAsync(StoredSession session, AuditNote? note = null, CancellationToken stop = default)
    {
        await using var db = open();
        AddNote(db, note);
        db.Sessions.Add(new SessionRow
        {
            Id = session.Id,
            Purpose = (int)session.Purpose,
            MemberId = session.Member,
            View = session.View,
            CreatedAt = session.CreatedAt,
            SeenAt = session.SeenAt,
            Until = session.Until,
            Network = session.Network,
            Agent = session.Agent,
            MadeBySession = session.MadeBySession,
            MadeByToken = session.MadeByToken,
            IsTicket = session.IsTicket,
            Unlocks = [.. session.Unlocks.Select(u => new UnlockRow { SessionId = session.Id, Gate = u.Gate, PasswordId = u.Password, Until = u.Until })],
        });
        await db.SaveChangesAsync(stop);
    }

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
        await using var db = open();
        await using var one = await db.Database.BeginTransactionAsync(stop);
        var now = time.GetUtcNow();
        var redeemed = await db.Sessions.Where(s => s.Id == id && s.IsTicket && s.Until > now).ExecuteUpdateAsync(
            set => set.SetProperty(s => s.IsTicket, false).SetProperty(s => s.Until, until).SetProperty(s => s.SeenAt, now)
            .SetProperty(s => s.Network, network).SetProperty(s => s.Agent, agent), stop);
        if (redeemed == 0)
        {
            return null;
        }

        AddNote(db, note);
        await db.SaveChangesAsync(stop);
        await one.CommitAsync(stop);
        return await SessionAsync(id, stop);
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

    /// <summary>Ends a session; false when it was over already.</summary>
    public async Task<bool> EndSessionAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        await using var one = await db.Database.BeginTransactionAsync(stop);
        await db.Sessions.Where(s => s.MadeBySession == id).ExecuteDeleteAsync(stop);
        var ended = await db.Sessions.Where(s => s.Id == id).ExecuteDeleteAsync(stop) > 0;
        if (ended)
        {
            await db.Marks.Where(m => m.Name == SessionsEnded).ExecuteUpdateAsync(set => set.SetProperty(m => m.Number, m => m.Number + 1), stop);
        }

        await one.CommitAsync(stop);
        return ended;
    }

    /// <summary>Drops sessions that are over.</summary>
    public async Task<int> SweepSessionsAsync(CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        return await db.Sessions.Where(s => s.Until <= now).ExecuteDeleteAsync(stop);
    }

    /// <summary>The shared passwords with that digest.</summary>
    public async Task<IReadOnlyList<SharedPassword>> SharedPasswordsByDigestAsync(string digest, CancellationToken stop = default)
    {
        await using var db = open();
        return [.. (await db.SharedPasswords.AsNoTracking().Where(p => p.Digest == digest).ToListAsync(stop)).Select(p => p.ToPassword())];
    }

    /// <summary>The shared passwords of a gate, or of all, newest first.</summary>
    public async Task<IReadOnlyList<SharedPassword>> SharedPasswordsAsync(string? gate, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.SharedPasswords.AsNoTracking().Where(p => gate == null || p.Gate == gate).OrderByDescending(p => p.CreatedAt).ToListAsync(stop);
        return [.. rows.Select(p => p.ToPassword())];
    }

    /// <summary>The shared password of that id, or null.</summary>
    public async Task<SharedPassword?> SharedPasswordAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.SharedPasswords.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id, stop))?.ToPassword();
    }

    /// <summary>How many networks each password was used from; those never used are left out.</summary>
    public async Task<IReadOnlyDictionary<Guid, int>> PasswordNetworksAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return await db.PasswordNetworks.GroupBy(n => n.PasswordId).Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, stop);
    }

    /// <summary>Counts a use of each password, unless it has no use left; gives those that had.</summary>
    /// <param name="passwords">The passwords that were typed right.</param>
    /// <param name="network">A keyed digest of the network it was typed from.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlySet<Guid>> UseAsync(IReadOnlyList<Guid> passwords, string network, CancellationToken stop = default)
    {
        await using var db = open();
        await using var one = await db.Database.BeginTransactionAsync(stop);
        var now = time.GetUtcNow();
        var used = new HashSet<Guid>();
        foreach (var id in passwords)
        {
            var counted = await db.SharedPasswords.Where(p => p.Id == id && (p.MostUses == null || p.Uses < p.MostUses))
                .ExecuteUpdateAsync(set => set.SetProperty(p => p.Uses, p => p.Uses + 1).SetProperty(p => p.LastUsedAt, now), stop);
            if (counted == 0)
            {
                continue;
            }

            used.Add(id);
        }

        await one.CommitAsync(stop);
        foreach (var id in used)
        {
            if (!await db.PasswordNetworks.AnyAsync(n => n.PasswordId == id && n.Network == network, stop))
            {
                db.PasswordNetworks.Add(new PasswordNetworkRow { PasswordId = id, Network = network, FirstAt = now });
            }
        }

        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateException)
        {
            // Somebody in the same network was faster by a moment; it is counted.
        }

        return used;
    }

    /// <summary>Keeps what passwords unlocked in a session.</summary>
    public async Task UnlockAsync(Guid session, IReadOnlyList<StoredUnlock> unlocks, DateTimeOffset sessionUntil, CancellationToken stop = default)
    {
        await using var db = open();
        await using var one = await db.Database.BeginTransactionAsync(stop);
        foreach (var unlock in unlocks)
        {
            await db.Unlocks.Where(u => u.SessionId == session && u.PasswordId == unlock.Password).ExecuteDeleteAsync(stop);
            db.Unlocks.Add(new UnlockRow { SessionId = session, Gate = unlock.Gate, PasswordId = unlock.Password, Until = unlock.Until });
        }

        await db.Sessions.Where(s => s.Id == session && s.Until < sessionUntil)
            .ExecuteUpdateAsync(set => set.SetProperty(s => s.Until, sessionUntil), stop);
        await db.SaveChangesAsync(stop);
        await one.CommitAsync(stop);
    }

    private static StoredSession ToSession(SessionRow row) => new(
        row.Id, (SessionPurpose)row.Purpose, row.MemberId, row.View, row.CreatedAt, row.SeenAt, row.Until, row.Network, row.Agent,
        [.. row.Unlocks.Select(u => new StoredUnlock(u.Gate, u.PasswordId, u.Until))])
    { MadeBySession = row.MadeBySession, MadeByToken = row.MadeByToken, IsTicket = row.IsTicket };

    private async Task<Member?> OneMemberAsync(System.Linq.Expressions.Expression<Func<MemberRow, bool>> which, CancellationToken stop)
    {
        await using var db = open();
        return (await db.Members.AsNoTracking().Include(m => m.Grants).FirstOrDefaultAsync(which, stop))?.ToMember();
    }
}
