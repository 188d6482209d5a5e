using Microsoft.EntityFrameworkCore;
using WarySentinel.Storage.Letters;

namespace WarySentinel.Storage;

/// <summary>Addresses that no letter reaches.</summary>
public sealed partial class Store
{
    /// <summary>Marks an address, so that nobody writes to it any more; false where that was known.</summary>
    public async Task<bool> MarkUnreachableAsync(UnreachableAddress found, string by, CancellationToken stop = default)
    {
        var (marked, _) = await WriteAsync(
            async writing =>
            {
                if (await writing.Db.Unreachable.AnyAsync(u => u.Address == found.Address, stop))
                {
                    return false;
                }

                writing.Rows.Insert(new UnreachableRow
                {
                    Address = found.Address, At = found.At, Status = found.Status, Said = found.Said is null ? null : Shortened(found.Said),
                });
                writing.Note(new AuditNote(by, "letter.bounced", found.Address));
                return true;
            },
            stop);
        return marked;
    }

    /// <summary>Lets letters to an address go again; false where none were held.</summary>
    public async Task<bool> ReachableAgainAsync(string address, string by, CancellationToken stop = default)
    {
        var (freed, _) = await WriteAsync(
            async writing =>
            {
                if (await writing.Db.Unreachable.Where(u => u.Address == address).ExecuteDeleteAsync(stop) == 0)
                {
                    return false;
                }

                writing.Note(new AuditNote(by, "letter.reachable", address));
                return true;
            },
            stop);
        return freed;
    }

    /// <summary>The address, where no letter reaches it; null where letters do, as far as is known.</summary>
    public async Task<UnreachableAddress?> UnreachableAsync(string address, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Unreachable.AsNoTracking().FirstOrDefaultAsync(u => u.Address == address, stop) is { } row ? ToAddress(row) : null;
    }

    /// <summary>Addresses that no letter reaches, the newest first.</summary>
    public async Task<IReadOnlyList<UnreachableAddress>> UnreachableAsync(int most, CancellationToken stop = default)
    {
        await using var db = open();
        return [.. (await db.Unreachable.AsNoTracking().OrderByDescending(u => u.At).Take(most).ToListAsync(stop)).Select(ToAddress)];
    }

    private static UnreachableAddress ToAddress(UnreachableRow row) => new(row.Address, row.At, row.Status, row.Said);
}
