using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Storage.Catalogue;

/// <summary>How items are stored: many at a time.</summary>
internal static class ItemChanges
{
    private const int Chunk = 2000;

    public static void Register(Writers writers)
    {
        writers.On<ItemsPut>(PutAsync);
        writers.On<ItemsDropped>(DropAsync);
    }

    private static async Task PutAsync(Writing w, ItemsPut put)
    {
        var done = 0;
        foreach (var chunk in put.Items.Chunk(Chunk))
        {
            var names = chunk.Select(i => i.Id.ToString()).ToList();
            var there = (await w.Db.Items.AsNoTracking().Where(i => names.Contains(i.Id)).Select(i => i.Id).ToListAsync(w.Stop)).ToHashSet();
            foreach (var item in chunk)
            {
                var row = ItemRow.Of(item);
                w.Db.Entry(row).State = there.Contains(row.Id) ? EntityState.Modified : EntityState.Added;
            }

            await w.Db.SaveChangesAsync(w.Stop);
            w.Db.ChangeTracker.Clear();
            w.Progress?.Report(done += chunk.Length);
        }
    }

    private static async Task DropAsync(Writing w, ItemsDropped dropped)
    {
        foreach (var chunk in dropped.Ids.Select(id => id.ToString()).Chunk(Chunk))
        {
            var names = chunk.ToList();
            await w.Db.Items.Where(i => names.Contains(i.Id)).ExecuteDeleteAsync(w.Stop);
        }
    }
}
