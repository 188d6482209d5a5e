using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Storage.People;

/// <summary>How members, what they hold, and tokens are stored. The version of a member's row tells two writers of the same member apart.</summary>
internal static class MemberChanges
{
    /// <summary>The mark that is held while owners come or go.</summary>
    public const string Owners = "owners";

    private static readonly string[] Version = [nameof(MemberRow.Version)];
    private static readonly string[] Dates = [nameof(GrantRow.From), nameof(GrantRow.Until)];

    private static readonly string[] Whole =
    [
        nameof(MemberRow.Email), nameof(MemberRow.Name), nameof(MemberRow.UserName), nameof(MemberRow.PasswordHash), nameof(MemberRow.Status),
        nameof(MemberRow.CreatedAt), nameof(MemberRow.Version), nameof(MemberRow.Search),
    ];

    public static void Register(Writers writers)
    {
        writers.Gather<MemberAdded>((w, added) =>
        {
            var row = MemberRow.Of(added.Member);
            w.Rows.Insert(row);
            row.Grants.ForEach(w.Rows.Insert);
        });
        writers.Gather<MemberSet>(Set);
        writers.Gather<MemberTouched>((w, touched) =>
        {
            w.Rows.Update(new MemberRow { Id = touched.Member, Email = "", Name = "", Version = touched.Was + 1 }, Version, touched.Was);
            w.News.Tell(Told.Member, touched.Member.ToString("N"));
        });
        writers.Gather<GrantAdded>((w, added) => w.Rows.Insert(GrantRow.Of(added.Member, added.Grant)));
        writers.Gather<GrantSet>((w, set) => w.Rows.Update(GrantRow.Of(set.Member, set.Grant), Dates));
        writers.On<OwnerRemains>(async (w, guard) =>
        {
            // One who is owner until some day is none to stay behind.
            if (!await OwnersAsync(w, g => g.MemberId != guard.Beside && g.Until == null))
            {
                throw new StoreRefusedException(Problem.Of(ProblemKind.Conflict, "last-owner"));
            }
        });
        writers.On<NoOwnerYet>(async (w, _) =>
        {
            if (await OwnersAsync(w, _ => true))
            {
                throw new StoreRefusedException(Problem.Of(ProblemKind.Conflict, "set-up-done"));
            }
        });
        writers.On<TokenPut>((w, put) => w.PutAsync(TokenRow.Of(put.Token), put.Token.Id));
        writers.On<TokenDropped>(async (w, dropped) =>
        {
            w.News.Tell(Told.Token, dropped.Id.ToString("N"));
            foreach (var id in await w.Db.Sessions.Where(s => s.MadeByToken == dropped.Id).Select(s => s.Id).ToListAsync(w.Stop))
            {
                w.News.Tell(Told.Session, id.ToString("N"));
            }

            await w.Db.Sessions.Where(s => s.MadeByToken == dropped.Id).ExecuteDeleteAsync(w.Stop);
            await w.Db.Tokens.Where(t => t.Id == dropped.Id).ExecuteDeleteAsync(w.Stop);
        });
    }

    private static void Set(Writing w, MemberSet set)
    {
        w.Rows.Update(MemberRow.Of(set.Member), Whole, set.Was);
        w.News.Tell(Told.Member, set.Member.Id.ToString("N"));
    }

    /// <summary>Whether such an active owner is there now. Whoever asks holds the others off until this transaction ends.</summary>
    private static async Task<bool> OwnersAsync(Writing w, System.Linq.Expressions.Expression<Func<GrantRow, bool>> such)
    {
        await w.Db.Marks.Where(m => m.Name == Owners).ExecuteUpdateAsync(set => set.SetProperty(m => m.Number, m => m.Number + 1), w.Stop);
        return await w.Db.ActiveHolders(w.Db.Grants.Where(such), FactKind.Role, "owner", w.Now).AnyAsync(w.Stop);
    }
}
