using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>What is looked for in the directory.</summary>
/// <param name="Fields">The fields that are shown in it.</param>
/// <param name="Text">Part of a name, or of an answer that its member shows; null for all.</param>
/// <param name="Options">Options whose labels hold that text, as <c>field=option</c>.</param>
public sealed record DirectoryQuery(IReadOnlyList<string> Fields, string? Text, IReadOnlyList<string> Options);

/// <summary>A member as the directory shows them.</summary>
/// <param name="Member">Who.</param>
/// <param name="Shown">The answers that they show.</param>
public sealed record Listed(Member Member, IReadOnlyList<FieldAnswer> Shown);

/// <summary>The directory of members.</summary>
public sealed partial class Store
{
    /// <summary>Members who stand in the directory, by their names.</summary>
    /// <param name="query">What is looked for. Only names, and answers that are shown, are looked into: never an address.</param>
    /// <param name="skip">How many come before.</param>
    /// <param name="most">At most so many.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<Listed>> ListedAsync(DirectoryQuery query, int skip, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var (fields, options) = (query.Fields, query.Options);
        var members = db.Members.AsNoTracking().Where(m => m.Status == (int)MemberStatus.Active && db.Listings.Any(l => l.MemberId == m.Id && l.Field == ""));
        if (query.Text is { } text)
        {
            var part = Like(AnswerRow.FoldedOf(text));
            // Name, address and user name stand on a line each: what two line ends follow is the name.
            var inName = "%" + part + "%\n%\n%";
            members = members.Where(m => EF.Functions.Like(m.Search, inName, "\\") || db.Answers.Any(a => a.MemberId == m.Id && fields.Contains(a.Field)
                && db.Listings.Any(l => l.MemberId == m.Id && l.Field == a.Field)
                && (EF.Functions.Like(a.Folded, "%" + part + "%", "\\") || options.Contains(a.Field + "=" + a.Value))));
        }

        var found = (await members.OrderBy(m => m.Search).ThenBy(m => m.Id).Skip(skip).Take(most).ToListAsync(stop)).ConvertAll(m => m.ToMember());
        return await ShownAsync(db, found, fields, stop);
    }

    /// <summary>A member as the directory shows them; null where they do not stand in it.</summary>
    public async Task<Listed?> ListedAsync(Guid member, IReadOnlyList<string> fields, CancellationToken stop = default)
    {
        await using var db = open();
        var found = await db.Members.AsNoTracking().Where(m => m.Id == member && m.Status == (int)MemberStatus.Active
            && db.Listings.Any(l => l.MemberId == m.Id && l.Field == "")).ToListAsync(stop);
        return await ShownAsync(db, found.ConvertAll(m => m.ToMember()), fields, stop) is [var only] ? only : null;
    }

    /// <summary>How many members stand in the directory.</summary>
    public async Task<int> ListedCountAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Listings.CountAsync(l => l.Field == "" && db.Members.Any(m => m.Id == l.MemberId && m.Status == (int)MemberStatus.Active), stop);
    }

    /// <summary>The keys of the fields that a member shows; null where they do not stand in the directory.</summary>
    public async Task<IReadOnlyList<string>?> ListingAsync(Guid member, CancellationToken stop = default)
    {
        await using var db = open();
        var all = await db.Listings.AsNoTracking().Where(l => l.MemberId == member).Select(l => l.Field).ToListAsync(stop);
        return all.Contains("") ? all.FindAll(f => f.Length > 0) : null;
    }

    private static string Like(string part) => part.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal)
        .Replace("_", "\\_", StringComparison.Ordinal);

    private static async Task<IReadOnlyList<Listed>> ShownAsync(StoreContext db, List<Member> members, IReadOnlyList<string> fields, CancellationToken stop)
    {
        var ids = members.ConvertAll(m => m.Id);
        var rows = await db.Answers.AsNoTracking().Where(a => ids.Contains(a.MemberId) && fields.Contains(a.Field)
            && db.Listings.Any(l => l.MemberId == a.MemberId && l.Field == a.Field)).OrderBy(a => a.Place).ToListAsync(stop);
        var byMember = rows.ToLookup(a => a.MemberId);
        return members.ConvertAll(m => new Listed(
            m, [.. byMember[m.Id].GroupBy(a => a.Field).Select(g => new FieldAnswer(g.Key, [.. g.Select(a => a.Value)]))]));
    }
}
