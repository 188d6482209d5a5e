using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>Members gathered by what they hold.</summary>
public sealed partial class Store
{
    private const int NamesOfSet = 20;
    private const int MostNames = 2000;

    /// <summary>
    /// The active members, gathered by which of certain facts they hold now: nothing else about them can make a difference. Costs what those facts
    /// have of holders.
    /// </summary>
    /// <param name="facts">The facts that matter; a member who is named is a set of their own.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<FactSet>> FactSetsAsync(IReadOnlyCollection<(FactKind Kind, string Key)> facts, CancellationToken stop = default)
    {
        await using var db = open();
        var named = facts.Where(f => f.Kind == FactKind.Member).Select(f => f.Key).ToList();
        var apart = (await db.Members.AsNoTracking().Where(m => m.Status == (int)MemberStatus.Active && named.Contains(m.Email))
            .Select(m => new { m.Id, m.Email }).ToListAsync(stop)).ToDictionary(m => m.Id, m => m.Email);
        var gathering = new Gathering(apart);
        await foreach (var (member, grant) in RelevantAsync(db, facts, time.GetUtcNow(), stop))
        {
            gathering.Take(member, grant);
        }

        var sets = gathering.Close();
        foreach (var (id, email) in apart.Where(a => !gathering.Seen.Contains(a.Key)))
        {
            sets.Add((new Visitor { IsSignedIn = true, Email = email }, 1, [id]));
        }

        await PlainAsync(db, facts, sets, stop);
        return await NamedAsync(db, sets, stop);
    }

    /// <summary>Those who hold none of the facts; some of them by name.</summary>
    private static async Task PlainAsync(
        StoreContext db, IReadOnlyCollection<(FactKind Kind, string Key)> facts, List<(Visitor Visitor, int Members, List<Guid> Some)> sets,
        CancellationToken stop)
    {
        var holders = sets.Sum(s => s.Members);
        var plain = await db.Members.CountAsync(m => m.Status == (int)MemberStatus.Active, stop) - holders;
        if (plain <= 0)
        {
            return;
        }

        // Names are for the eye: the first by address who hold none of it, out of the first few.
        var first = await db.Members.AsNoTracking().Where(m => m.Status == (int)MemberStatus.Active).OrderBy(m => m.Email).Take(MostNames)
            .Select(m => m.Id).ToListAsync(stop);
        var holding = await Relevant(db, facts).Where(g => first.Contains(g.MemberId)).Select(g => g.MemberId).ToListAsync(stop);
        var named = sets.SelectMany(s => s.Some).ToHashSet();
        sets.Add((new Visitor { IsSignedIn = true }, plain, [.. first.Except(holding).Where(id => !named.Contains(id)).Take(NamesOfSet)]));
    }

    private static async Task<IReadOnlyList<FactSet>> NamedAsync(
        StoreContext db, List<(Visitor Visitor, int Members, List<Guid> Some)> sets, CancellationToken stop)
    {
        var some = sets.SelectMany(s => s.Some).Take(MostNames).ToList();
        var names = await db.Members.AsNoTracking().Where(m => some.Contains(m.Id)).Select(m => new { m.Id, m.Name })
            .ToDictionaryAsync(m => m.Id, m => m.Name, stop);
        return [.. sets.Select(s => new FactSet(s.Visitor, s.Members, [.. s.Some.Where(names.ContainsKey).Select(id => names[id])]))];
    }

    private static async IAsyncEnumerable<(Guid Member, Grant Grant)> RelevantAsync(
        StoreContext db, IReadOnlyCollection<(FactKind Kind, string Key)> facts, DateTimeOffset at,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken stop)
    {
        if (!facts.Any(f => f.Kind != FactKind.Member))
        {
            yield break;
        }

        var rows = Relevant(db, facts).Where(g => (g.From == null || g.From <= at) && (g.Until == null || g.Until > at))
            .Join(db.Members.Where(m => m.Status == (int)MemberStatus.Active), g => g.MemberId, m => m.Id, (g, _) => new { g.MemberId, g.Kind, g.Key })
            .OrderBy(g => g.MemberId).ThenBy(g => g.Kind).ThenBy(g => g.Key).AsAsyncEnumerable();
        await foreach (var row in rows.WithCancellation(stop))
        {
            yield return (row.MemberId, new Grant((FactKind)row.Kind, row.Key));
        }
    }

    private static IQueryable<GrantRow> Relevant(StoreContext db, IReadOnlyCollection<(FactKind Kind, string Key)> facts)
    {
        List<string> Of(FactKind kind) => [.. facts.Where(f => f.Kind == kind).Select(f => f.Key).Distinct()];
        var (roles, groups, plans, bought) = (Of(FactKind.Role), Of(FactKind.Group), Of(FactKind.Plan), Of(FactKind.Bought));
        return db.Grants.AsNoTracking().Where(g => (g.Kind == (int)FactKind.Role && roles.Contains(g.Key))
            || (g.Kind == (int)FactKind.Group && groups.Contains(g.Key)) || (g.Kind == (int)FactKind.Plan && plans.Contains(g.Key))
            || (g.Kind == (int)FactKind.Bought && bought.Contains(g.Key)));
    }

    /// <summary>Counts members by what they hold, as their grants come by in the order of members.</summary>
    private sealed class Gathering(Dictionary<Guid, string> apart)
    {
        private readonly Dictionary<string, (Visitor Visitor, int Members, List<Guid> Some)> sets = new(StringComparer.Ordinal);
        private readonly List<Grant> held = [];
        private Guid who;

        public HashSet<Guid> Seen { get; } = [];

        public void Take(Guid member, Grant grant)
        {
            if (member != who)
            {
                End();
                who = member;
            }

            // The same fact may be held from several sources.
            if (held.Count == 0 || held[^1] != grant)
            {
                held.Add(grant);
            }
        }

        public List<(Visitor Visitor, int Members, List<Guid> Some)> Close()
        {
            End();
            return [.. sets.Values];
        }

        private void End()
        {
            if (held.Count == 0)
            {
                return;
            }

            var email = apart.GetValueOrDefault(who);
            if (email is not null)
            {
                Seen.Add(who);
            }

            var name = string.Join('\n', held.Select(h => h.Fact).Append(email ?? ""));
            var known = sets.TryGetValue(name, out var there) ? there
                : (Visitor: new Visitor { IsSignedIn = true, Email = email, Grants = [.. held] }, Members: 0, Some: []);
            if (known.Some.Count < NamesOfSet)
            {
                known.Some.Add(who);
            }

            sets[name] = (known.Visitor, known.Members + 1, known.Some);
            held.Clear();
        }
    }
}
