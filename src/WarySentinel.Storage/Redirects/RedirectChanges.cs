using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Redirects;

namespace WarySentinel.Storage.Redirects;

/// <summary>How redirects are stored.</summary>
internal static class RedirectChanges
{
    public static void Register(Writers writers)
    {
        writers.On<RedirectPut>((w, put) => w.PutAsync(RedirectRow.Of(put.Redirect), put.Redirect.Key));
        writers.On<RedirectDropped>((w, dropped) => w.Db.Redirects.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
    }
}
