using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Passwords;
using WarySentinel.Core.People;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Storage.Passwords;

/// <summary>How passes are stored. Whoever came in by one that ends is out with it.</summary>
internal static class PassChanges
{
    public static void Register(Writers writers)
    {
        writers.Gather<PassPut>((w, put) =>
        {
            if (put.Was == 0)
            {
                w.Rows.Insert(PassRow.Of(put.Pass));
            }
            else
            {
                w.Rows.Update(PassRow.Of(put.Pass), PassRow.Whole, put.Was);
                w.News.Tell(Told.Pass, put.Pass.Id.ToString("N"));
            }
        });
        writers.On<PassSessionsCut>(CutAsync);
        writers.Also<GrantsMoved>(MoveAsync);
        writers.Also<MemberErased>(ForgetAsync);
    }

    private static async Task CutAsync(Writing w, PassSessionsCut cut)
    {
        await w.Db.Sessions.Where(s => s.PassId == cut.Pass && s.PassUntil > cut.At)
            .ExecuteUpdateAsync(set => set.SetProperty(s => s.PassUntil, cut.At), w.Stop);
        w.News.Tell(Told.Pass, cut.Pass.ToString("N"));
    }

    /// <summary>Passes of a kind that goes by another name go along; those of one that is gone are withdrawn.</summary>
    private static async Task MoveAsync(Writing w, GrantsMoved moved)
    {
        if (moved.Kind != FactKind.Pass)
        {
            return;
        }

        var now = w.Now;
        var theirs = w.Db.Passes.Where(p => p.Kind == moved.Key);
        var count = moved.To is { } to
            ? await theirs.ExecuteUpdateAsync(set => set.SetProperty(p => p.Kind, to).SetProperty(p => p.Version, p => p.Version + 1), w.Stop)
            : await theirs.Where(p => p.WithdrawnAt == null).ExecuteUpdateAsync(
                set => set.SetProperty(p => p.WithdrawnAt, now).SetProperty(p => p.Version, p => p.Version + 1), w.Stop);
        if (count > 0)
        {
            w.News.Tell(Told.Members, "");
        }
    }

    /// <summary>A pass of whoever is erased ends, and no longer says whose it was.</summary>
    private static async Task ForgetAsync(Writing w, MemberErased erased)
    {
        var now = w.Now;
        foreach (var row in await w.Db.Passes.Where(p => p.Email == erased.Email).ToListAsync(w.Stop))
        {
            (row.Email, row.Holder, row.WithdrawnAt, row.Version) = (null, erased.Tag, row.WithdrawnAt ?? now, row.Version + 1);
            row.Search = PassRow.SearchOf(row.Name, row.Holder, null);
            w.News.Tell(Told.Pass, row.Id.ToString("N"));
        }

        await w.SaveAsync();
    }
}
