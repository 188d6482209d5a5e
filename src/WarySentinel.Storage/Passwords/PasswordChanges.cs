using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;
using WarySentinel.Core.Passwords;
using WarySentinel.Storage.Access;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Storage.Passwords;

/// <summary>How shared passwords are stored. What one unlocked ends with it.</summary>
internal static class PasswordChanges
{
    public static void Register(Writers writers)
    {
        writers.On<SharedPasswordPut>(PutAsync);
        writers.Also<FactReplaced>((w, replaced) =>
            AudienceChanges.ReplaceAsync(w, replaced, w.Db.SharedPasswords, p => p.Asked, (p, asked) => p.Asked = asked));
    }

    private static async Task PutAsync(Writing w, SharedPasswordPut put)
    {
        var (id, db) = (put.Password.Id, w.Db);
        await w.PutAsync(SharedPasswordRow.Of(put.Password), id);
        if (put.Password.WithdrawnAt is not null)
        {
            await db.Unlocks.Where(u => u.PasswordId == id).ExecuteDeleteAsync(w.Stop);
        }
        else if (put.Password.Until is { } end)
        {
            await db.Unlocks.Where(u => u.PasswordId == id && u.Until > end).ExecuteUpdateAsync(set => set.SetProperty(u => u.Until, end), w.Stop);
        }

        w.News.Tell(Told.Password, id.ToString("N"));
    }
}
