using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Storage.Access;

namespace WarySentinel.Storage.Redirects;

/// <summary>How redirects are stored.</summary>
internal static class RedirectChanges
{
    public static void Register(Writers writers)
    {
        writers.On<Change.RedirectPut>((w, put) => w.PutAsync(RedirectRow.Of(put.Redirect), put.Redirect.Key));
        writers.On<Change.RedirectDropped>((w, dropped) => w.Db.Redirects.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
    }
}
