using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Entries;

namespace WarySentinel.Storage.Entries;

/// <summary>How rules of entries are stored.</summary>
internal static class EntryChanges
{
    public static void Register(Writers writers)
    {
        writers.On<EntryPut>((w, put) => w.PutAsync(EntryRow.Of(put.Rule), put.Rule.Key));
        writers.On<EntryDropped>((w, dropped) => w.Db.Entries.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
    }
}
