using System.Text.RegularExpressions;
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
    private static readonly string[] Texts = [nameof(AuditRow.Before), nameof(AuditRow.After), nameof(AuditRow.Detail)];
    private static readonly string[] Dates = [nameof(GrantRow.From), nameof(GrantRow.Until)];

    private static readonly string[] Whole =
    [
        nameof(MemberRow.Email), nameof(MemberRow.Name), nameof(MemberRow.UserName), nameof(MemberRow.PasswordHash), nameof(MemberRow.Status),
        nameof(MemberRow.CreatedAt), nameof(MemberRow.Version), nameof(MemberRow.Search), nameof(MemberRow.StatusAt), nameof(MemberRow.StatusBy),
        nameof(MemberRow.StatusWords), nameof(MemberRow.Language), nameof(MemberRow.Unsubscribed),
        nameof(MemberRow.Said),
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
        writers.On<GrantDropped>((w, dropped) => w.Db.Grants.Where(g => g.Id == dropped.Grant && g.MemberId == dropped.Member).ExecuteDeleteAsync(w.Stop));
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
        writers.Gather<NoteAdded>((w, added) => w.Rows.Insert(MemberNoteRow.Of(added.Note)));
        writers.On<NoteDropped>((w, dropped) => w.Db.MemberNotes.Where(n => n.Id == dropped.Id).ExecuteDeleteAsync(w.Stop));
        writers.Gather<OutsideKeyAdded>((w, added) => w.Rows.Insert(OutsideKeyRow.Of(added.Key)));
        writers.On<OutsideKeyDropped>((w, dropped) => w.Db.OutsideKeys.Where(k => k.Source == dropped.Source && k.Key == dropped.Key)
            .ExecuteDeleteAsync(w.Stop));
        writers.On<MemberErased>(EraseAsync);
        writers.On<GrantsMoved>(MoveAsync);
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

    /// <summary>
    /// Everybody who holds one fact holds another, or none. Who has the other from that source already keeps it until the later day. As many as
    /// they may be, nobody's version is counted on one by one: every machine reads all sessions again.
    /// </summary>
    private static async Task MoveAsync(Writing w, GrantsMoved moved)
    {
        await w.SaveAsync();
        var (kind, now) = ((int)moved.Kind, w.Now);
        var held = w.Db.Grants.Where(g => g.Kind == kind && g.Key == moved.Key);
        if (!await held.AnyAsync(w.Stop))
        {
            return;
        }

        await w.Db.Members.Where(m => held.Any(g => g.MemberId == m.Id)).ExecuteUpdateAsync(set => set.SetProperty(m => m.Version, m => m.Version + 1), w.Stop);
        if (moved.To is { } to)
        {
            var there = w.Db.Grants.Where(g => g.Kind == kind && g.Key == to);
            await held.Where(g => !there.Any(o => o.MemberId == g.MemberId && o.Source == g.Source && o.Reference == g.Reference))
                .ExecuteUpdateAsync(set => set.SetProperty(g => g.Key, to), w.Stop);
            // What lasts longer is what counts; what is over already begins anew.
            await there.Where(o => o.Until != null && held.Any(g => g.MemberId == o.MemberId && g.Source == o.Source && g.Reference == o.Reference
                && (g.Until == null || (g.Until > now && g.Until > o.Until)))).ExecuteUpdateAsync(
                set => set.SetProperty(o => o.From, o => o.Until > now ? o.From
                    : held.First(g => g.MemberId == o.MemberId && g.Source == o.Source && g.Reference == o.Reference).From)
                .SetProperty(o => o.Until, o => held.First(g => g.MemberId == o.MemberId && g.Source == o.Source && g.Reference == o.Reference).Until), w.Stop);
        }

        await held.Where(g => g.Until == null || g.Until > now).ExecuteUpdateAsync(set => set.SetProperty(g => g.Until, now), w.Stop);
        w.News.Tell(Told.Members, "");
    }

    /// <summary>
    /// Removes the member; grants, notes, sessions and tokens go with the row. What the audit trail says of them and by them goes on under the tag; only
    /// who was staff has done anything.
    /// </summary>
    private static async Task EraseAsync(Writing w, MemberErased erased)
    {
        // Their row is taken first, under its version.
        await w.SaveAsync();
        await w.Db.Sessions.Where(v => w.Db.Sessions.Any(s => s.Id == v.MadeBySession && s.MemberId == erased.Member)).ExecuteDeleteAsync(w.Stop);
        await ForgetAsync(w, erased);
        await w.Db.Members.Where(m => m.Id == erased.Member).ExecuteDeleteAsync(w.Stop);
        w.News.Tell(Told.Member, erased.Member.ToString("N"));
    }

    /// <summary>Takes the name out of the trail: as what it was about, in what gates once said, and as who did it.</summary>
    private static async Task ForgetAsync(Writing w, MemberErased erased)
    {
        await w.Db.Audit.Where(a => a.Subject == erased.Email).ExecuteUpdateAsync(
            set => set.SetProperty(a => a.Subject, erased.Tag).SetProperty(a => a.Before, (string?)null).SetProperty(a => a.After, (string?)null)
            .SetProperty(a => a.Detail, (string?)null), w.Stop);
        await ForgetInTextsAsync(w, erased);
        if (await w.Db.Grants.AnyAsync(g => g.MemberId == erased.Member && g.Kind == (int)FactKind.Role && StaffRights.Names.Contains(g.Key), w.Stop))
        {
            // What they did with a token has the token's label behind their address.
            var token = erased.Email + " (";
            await w.Db.Audit.Where(a => a.By == erased.Email || a.By.StartsWith(token)).ExecuteUpdateAsync(
                set => set.SetProperty(a => a.By, erased.Tag), w.Stop);
            await w.Db.MemberNotes.Where(n => n.By == erased.Email || n.By.StartsWith(token)).ExecuteUpdateAsync(
                set => set.SetProperty(n => n.By, erased.Tag), w.Stop);
            await w.Db.Members.Where(m => m.StatusBy == erased.Email || m.StatusBy!.StartsWith(token))
                .ExecuteUpdateAsync(set => set.SetProperty(m => m.StatusBy, erased.Tag), w.Stop);
        }
    }

    /// <summary>What gates once said of them, by their whole address: another's may end or begin with the same letters.</summary>
    private static async Task ForgetInTextsAsync(Writing w, MemberErased erased)
    {
        var whole = new Regex(@"(?<![\w.!#$%&'*+/=?^`{|}~-])" + Regex.Escape(erased.Email) + @"(?![\w-]|\.\w)", RegexOptions.CultureInvariant);
        var told = await w.Db.Audit.AsNoTracking()
            .Where(a => a.Before!.Contains(erased.Email) || a.After!.Contains(erased.Email) || a.Detail!.Contains(erased.Email)).ToListAsync(w.Stop);
        string? Without(string? text) => text is null ? null : whole.Replace(text, erased.Tag);
        foreach (var row in told)
        {
            (row.Before, row.After, row.Detail) = (Without(row.Before), Without(row.After), Without(row.Detail));
            w.Rows.Update(row, Texts);
        }

        await w.Rows.SendAsync(w.Stop);
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
