using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;
using WarySentinel.Core.Redirects;
using WarySentinel.Storage.Access;

namespace WarySentinel.Storage.Redirects;

/// <summary>How redirects are stored.</summary>
internal static class RedirectChanges
{
    public static void Register(Writers writers)
    {
        writers.On<RedirectPut>((w, put) => w.PutAsync(RedirectRow.Of(put.Redirect), put.Redirect.Key));
        writers.Also<FactReplaced>((w, replaced) =>
            AudienceChanges.ReplaceAsync(w, replaced, w.Db.Redirects, r => r.Audience, (r, audience) => r.Audience = audience));
        writers.On<RedirectDropped>((w, dropped) => w.Db.Redirects.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
    }
}
