using Microsoft.EntityFrameworkCore;
using WarySentinel.Storage.Letters;

namespace WarySentinel.Storage;

/// <summary>Addresses that no letter reaches.</summary>
public sealed partial class Store
{
    /// <summary>
    /// What a report says of a letter of ours: it reached nobody. Its address is marked, whatever address the report names: a report may come from behind
    /// a forwarding. Null where no letter of that name was sent: such a report is not believed, or anybody could end anybody's letters.
    /// </summary>
    public async Task<string?> ReturnedAsync(Guid letter, string status, string? said, string by, CancellationToken stop = default)
    {
        string? to;
        await using (var db = open())
        {
            to = await db.Outbox.Where(m => m.Id == letter && (m.HandedAt != null || m.SentAt != null)).Select(m => m.To).FirstOrDefaultAsync(stop);
        }

        if (to is null)
        {
            return null;
        }

        await MarkUnreachableAsync(new UnreachableAddress(to, time.GetUtcNow(), status, said), by, stop);
        var words = Shortened($"{status} {said}".Trim());
        await WriteAsync(
            async writing => await writing.Db.Outbox.Where(m => m.Id == letter && m.ReturnedAt == null).ExecuteUpdateAsync(
                set => set.SetProperty(m => m.ReturnedAt, writing.Now).SetProperty(m => m.Fault, words), stop), stop);
        return to;
    }

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
