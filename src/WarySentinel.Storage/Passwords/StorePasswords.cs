using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Passwords;
using WarySentinel.Storage.Passwords;

namespace WarySentinel.Storage;

/// <summary>Shared passwords: read, counted.</summary>
public sealed partial class Store
{
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
        var now = time.GetUtcNow();
        var (used, _) = await WriteAsync(
            async writing =>
            {
                var had = new HashSet<Guid>();
                // Always in one order, so that no two wait for each other.
                foreach (var id in passwords.Order())
                {
                    var counted = await writing.Db.SharedPasswords.Where(p => p.Id == id && (p.MostUses == null || p.Uses < p.MostUses))
                        .ExecuteUpdateAsync(set => set.SetProperty(p => p.Uses, p => p.Uses + 1).SetProperty(p => p.LastUsedAt, now), stop);
                    if (counted > 0)
                    {
                        had.Add(id);
                    }
                }

                return had;
            },
            stop);
        await NoteNetworksAsync(used, network, now, stop);
        return used;
    }

    private async Task NoteNetworksAsync(HashSet<Guid> used, string network, DateTimeOffset now, CancellationToken stop)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        foreach (var id in used)
        {
            if (!await db.PasswordNetworks.AnyAsync(n => n.PasswordId == id && n.Network == network, stop))
            {
                // Where somebody in the same network was faster by a moment, it is counted.
                await FirstAsync(db, new PasswordNetworkRow { PasswordId = id, Network = network, FirstAt = now }, stop);
            }
        }
    }
}
