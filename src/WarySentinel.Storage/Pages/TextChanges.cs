using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;

namespace WarySentinel.Storage.Pages;

/// <summary>How the owner's words on pages are stored.</summary>
internal static class TextChanges
{
    public static void Register(Writers writers)
    {
        writers.On<TextsPut>((w, put) => w.PutAsync(TextsRow.Of(put.Texts), put.Texts.Language));
        writers.On<TextsDropped>((w, dropped) => w.Db.Texts.Where(r => r.Language == dropped.Language).ExecuteDeleteAsync(w.Stop));
    }
}
