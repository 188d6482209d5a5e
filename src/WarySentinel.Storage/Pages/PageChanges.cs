using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;

namespace WarySentinel.Storage.Pages;

/// <summary>How the owner's words on pages are stored, and what they set of them.</summary>
internal static class PageChanges
{
    public static void Register(Writers writers)
    {
        writers.On<TextsPut>((w, put) => w.PutAsync(TextsRow.Of(put.Texts), put.Texts.Language));
        writers.On<PagePut>((w, put) => w.PutAsync(PageRow.Of(put.Setting), put.Setting.Key));
        writers.On<PageDropped>((w, dropped) => w.Db.Pages.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
        writers.On<TextsDropped>((w, dropped) => w.Db.Texts.Where(r => r.Language == dropped.Language).ExecuteDeleteAsync(w.Stop));
    }
}
