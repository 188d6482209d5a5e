using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>A request to join, and whose it is.</summary>
public sealed record RequestOf(JoinRequest Request, Member Member);

/// <summary>A file that was sent, without its content.</summary>
public sealed record FileNamed(Guid Id, string Field, string Name, string Type, int Size);

/// <summary>Requests to join, and what people answered.</summary>
public sealed partial class Store
{
    /// <summary>The request by which a member came, the newest; null where none is kept.</summary>
    public async Task<JoinRequest?> RequestAsync(Guid member, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.JoinRequests.AsNoTracking().Where(r => r.MemberId == member).OrderByDescending(r => r.Id).FirstOrDefaultAsync(stop))?.ToRequest();
    }

    /// <summary>Requests in these states, the oldest first.</summary>
    /// <param name="states">The states.</param>
    /// <param name="after">Only those after this one.</param>
    /// <param name="most">At most so many.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<RequestOf>> RequestsAsync(
        IReadOnlyCollection<RequestState> states, Guid? after, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var wanted = states.Select(s => (int)s).ToList();
        var query = db.JoinRequests.AsNoTracking().Where(r => wanted.Contains(r.State));
        var rows = await (after is { } last ? query.Where(r => r.Id.CompareTo(last) > 0) : query).OrderBy(r => r.Id).Take(most).ToListAsync(stop);
        var ids = rows.Select(r => r.MemberId).ToList();
        var members = await db.Members.AsNoTracking().Include(m => m.Grants).Where(m => ids.Contains(m.Id)).ToDictionaryAsync(m => m.Id, stop);
        return [.. rows.Where(r => members.ContainsKey(r.MemberId)).Select(r => new RequestOf(r.ToRequest(), members[r.MemberId].ToMember()))];
    }

    /// <summary>How many requests are in these states.</summary>
    public async Task<int> RequestCountAsync(IReadOnlyCollection<RequestState> states, CancellationToken stop = default)
    {
        await using var db = open();
        var wanted = states.Select(s => (int)s).ToList();
        return await db.JoinRequests.CountAsync(r => wanted.Contains(r.State), stop);
    }

    /// <summary>Other requests from the same network since then, the newest first.</summary>
    public async Task<IReadOnlyList<RequestOf>> RequestsFromAsync(
        string network, Guid beside, DateTimeOffset since, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.JoinRequests.AsNoTracking().Where(r => r.Network == network && r.At >= since && r.Id != beside)
            .OrderByDescending(r => r.At).Take(most).ToListAsync(stop);
        var members = await MembersAsync([.. rows.Select(r => r.MemberId)], stop);
        return [.. rows.Where(r => members.ContainsKey(r.MemberId)).Select(r => new RequestOf(r.ToRequest(), members[r.MemberId]))];
    }

    /// <summary>
    /// Requests before this one of the same member, of somebody of the same name, or with the same answer to a field that tells people apart; the newest
    /// first, with what is the same: <c>member</c>, <c>name</c> or the key of the field.
    /// </summary>
    /// <param name="one">The request.</param>
    /// <param name="telling">Answers that tell people apart, such as a telephone number.</param>
    /// <param name="most">At most so many.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<(RequestOf Request, string Same)>> EarlierAsync(
        RequestOf one, IReadOnlyList<FieldAnswer> telling, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var same = new Dictionary<Guid, string>();
        foreach (var answer in telling)
        {
            var sought = AnswerRow.FoldedOf(answer.Values[0]);
            (await db.Answers.Where(a => a.Field == answer.Field && a.Folded == sought && a.MemberId != one.Member.Id).Select(a => a.MemberId).Take(most)
                .ToListAsync(stop)).ForEach(m => same.TryAdd(m, answer.Field));
        }

        (await Namesakes(db, one.Member).Select(m => m.Id).Take(most).ToListAsync(stop)).ForEach(m => same.TryAdd(m, "name"));
        same[one.Member.Id] = "member";
        List<Guid> ids = [.. same.Keys];
        var rows = await db.JoinRequests.AsNoTracking().Where(r => ids.Contains(r.MemberId) && r.Id != one.Request.Id && r.At <= one.Request.At)
            .OrderByDescending(r => r.At).Take(most).ToListAsync(stop);
        var members = await MembersAsync([.. rows.Select(r => r.MemberId)], stop);
        return [.. rows.Where(r => members.ContainsKey(r.MemberId)).Select(r => (new RequestOf(r.ToRequest(), members[r.MemberId]), same[r.MemberId]))];
    }

    /// <summary>
    /// Others of the same name, found by an index: name, address and user name stand on a line each. SQLite compares bytes, so that they stand together;
    /// PostgreSQL has its trigrams.
    /// </summary>
    private static IQueryable<MemberRow> Namesakes(StoreContext db, Member one)
    {
        var name = Core.Spelling.Folded(one.Name);
        var (begin, end, pattern) = (name + "\n", name + "\u000b", Like(name) + "\n%");
        var others = db.Members.Where(m => m.Id != one.Id);
        return db is PostgresContext ? others.Where(m => EF.Functions.Like(m.Search, pattern, "\\"))
            : others.Where(m => m.Search.CompareTo(begin) >= 0 && m.Search.CompareTo(end) < 0);
    }

    /// <summary>How many requests came from a network, and how many with a mail domain, since then.</summary>
    public async Task<(int Network, int Domain)> RequestsLatelyAsync(string network, string domain, DateTimeOffset since, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.JoinRequests.CountAsync(r => r.Network == network && r.At >= since, stop),
            await db.JoinRequests.CountAsync(r => r.Domain == domain && r.At >= since, stop));
    }

    /// <summary>How many requests came from each of these networks since then.</summary>
    public async Task<IReadOnlyDictionary<string, int>> NetworksAsync(
        IReadOnlyCollection<string> networks, DateTimeOffset since, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.JoinRequests.Where(r => networks.Contains(r.Network!) && r.At >= since).GroupBy(r => r.Network!)
            .Select(g => new { g.Key, Count = g.Count() }).ToDictionaryAsync(g => g.Key, g => g.Count, stop);
    }

    /// <summary>What members answered, each in the order of keys.</summary>
    public async Task<IReadOnlyDictionary<Guid, IReadOnlyList<FieldAnswer>>> AnswersAsync(IReadOnlyCollection<Guid> members, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.Answers.AsNoTracking().Where(a => members.Contains(a.MemberId)).OrderBy(a => a.Field).ThenBy(a => a.Place).ToListAsync(stop);
        return rows.GroupBy(a => a.MemberId).ToDictionary(
            g => g.Key, IReadOnlyList<FieldAnswer> (g) => [.. g.GroupBy(a => a.Field).Select(f => new FieldAnswer(f.Key, [.. f.Select(a => a.Value)]))]);
    }

    /// <summary>What a member answered.</summary>
    public async Task<IReadOnlyList<FieldAnswer>> AnswersAsync(Guid member, CancellationToken stop = default) =>
        (await AnswersAsync([member], stop)).GetValueOrDefault(member) ?? [];

    /// <summary>The files that a member sent.</summary>
    public async Task<IReadOnlyList<FileNamed>> FilesAsync(Guid member, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.AnswerFiles.AsNoTracking().Where(f => f.MemberId == member).OrderBy(f => f.Id)
            .Select(f => new FileNamed(f.Id, f.Field, f.Name, f.Type, f.Size)).ToListAsync(stop);
    }

    /// <summary>A file that a member sent; null where there is none of that name.</summary>
    public async Task<AnswerFile?> FileAsync(Guid member, Guid file, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.AnswerFiles.AsNoTracking().FirstOrDefaultAsync(f => f.Id == file && f.MemberId == member, stop))?.ToFile();
    }

    /// <summary>How many members answered a field.</summary>
    public async Task<int> AnsweredAsync(string field, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Answers.Where(a => a.Field == field).Select(a => a.MemberId).Distinct().CountAsync(stop);
    }
}
