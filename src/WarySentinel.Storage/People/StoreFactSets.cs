using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>Members gathered by what they hold.</summary>
public sealed partial class Store
{
    private const int NamesOfSet = 20;
    private const int MostNames = 500;
    private const int ManyMembers = 100_000;
    private static readonly TimeSpan CountKept = TimeSpan.FromMinutes(1);
    private volatile Counted? counted;

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
        var gathering = new Gathering(apart, await InactiveAsync(db, stop));
        await GatherAsync(db, facts, gathering, stop);
        var sets = gathering.Close();
        await PlainAsync(db, facts, sets, stop);
        return await NamedAsync(db, sets, stop);
    }

    /// <summary>
    /// Goes through the holders of certain facts now, in whatever order they come: straight from the index that holds all of it (61,000 holders of 200
    /// groups in 0.1 s; by entities, 0.5 s).
    /// </summary>
    private async Task GatherAsync(StoreContext db, IReadOnlyCollection<(FactKind Kind, string Key)> facts, Gathering to, CancellationToken stop)
    {
        var isPostgres = db is PostgresContext;
        await db.Database.OpenConnectionAsync(stop);
        foreach (var kind in facts.Where(f => f.Kind is not (FactKind.Member or FactKind.Pass)).GroupBy(f => f.Kind))
        {
            var keys = kind.Select(f => f.Key).Distinct().ToArray();
            await using var command = db.Database.GetDbConnection().CreateCommand();
            command.CommandText = $"""
                SELECT "MemberId", "Key" FROM grants WHERE "Kind" = @kind AND "Key" {(isPostgres ? "= ANY(@keys)" : "IN (SELECT value FROM json_each(@keys))")}
                AND ("From" IS NULL OR "From" <= @now) AND ("Until" IS NULL OR "Until" > @now)
                """;
            foreach (var (name, value) in new (string, object)[] { ("kind", (int)kind.Key),
                ("keys", isPostgres ? keys : System.Text.Json.JsonSerializer.Serialize(keys)), ("now", time.GetUtcNow().UtcTicks) })
            {
                var parameter = command.CreateParameter();
                (parameter.ParameterName, parameter.Value) = (name, value);
                command.Parameters.Add(parameter);
            }

            await using var reader = await command.ExecuteReaderAsync(stop);
            while (isPostgres ? await reader.ReadAsync(stop) : reader.Read())
            {
                to.Take(reader.GetGuid(0), kind.Key, reader.GetString(1));
            }
        }
    }

    /// <summary>Members who are not active: as a rule few, beside those who are; they have an index of their own.</summary>
    private static async Task<HashSet<Guid>> InactiveAsync(StoreContext db, CancellationToken stop)
    {
        await db.Database.OpenConnectionAsync(stop);
        await using var command = db.Database.GetDbConnection().CreateCommand();
        command.CommandText = """SELECT "Id" FROM members WHERE "Status" <> 3""";
        var found = new HashSet<Guid>();
        await using var reader = await command.ExecuteReaderAsync(stop);
        while (db is PostgresContext ? await reader.ReadAsync(stop) : reader.Read())
        {
            found.Add(reader.GetGuid(0));
        }

        return found;
    }

    /// <summary>Active members who hold at least one of certain facts now, or are named by them, by e-mail address from the one after.</summary>
    public async Task<IReadOnlyList<Member>> MembersHoldingAsync(
        IReadOnlyCollection<(FactKind Kind, string Key)> facts, string? after, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        var named = facts.Where(f => f.Kind == FactKind.Member).Select(f => f.Key).ToList();
        var holders = Relevant(db, facts).Where(GrantQueries.InForceAt(now)).Select(g => g.MemberId);
        var from = db.Members.AsNoTracking().Where(m => m.Status == (int)MemberStatus.Active && (holders.Contains(m.Id) || named.Contains(m.Email)));
        from = after is null ? from : from.Where(m => m.Email.CompareTo(after) > 0);
        return await LoadAsync(from.OrderBy(m => m.Email).Take(most), stop);
    }

    /// <summary>Those who hold none of the facts; some of them by name.</summary>
    private async Task PlainAsync(
        StoreContext db, IReadOnlyCollection<(FactKind Kind, string Key)> facts, List<(Visitor Visitor, int Members, List<Guid> Some)> sets,
        CancellationToken stop)
    {
        var holders = sets.Sum(s => s.Members);
        var plain = await ActiveCountAsync(db, stop) - holders;
        if (plain <= 0)
        {
            return;
        }

        // Names are for the eye: the first by address who hold none of it, out of the first few.
        var first = await db.Members.AsNoTracking().Where(m => m.Status == (int)MemberStatus.Active).OrderBy(m => m.Email).Take(MostNames)
            .Select(m => m.Id).ToListAsync(stop);
        var holding = await Relevant(db, facts).Where(GrantQueries.InForceAt(time.GetUtcNow())).Where(g => first.Contains(g.MemberId))
            .Select(g => g.MemberId).ToListAsync(stop);
        var named = sets.SelectMany(s => s.Some).ToHashSet();
        sets.Add((new Visitor { IsSignedIn = true }, plain, [.. first.Except(holding).Where(id => !named.Contains(id)).Take(NamesOfSet)]));
    }

    /// <summary>How many members are active. Where they are very many, the count of a minute ago is good enough.</summary>
    private async Task<int> ActiveCountAsync(StoreContext db, CancellationToken stop)
    {
        var now = time.GetUtcNow();
        if (counted is { Members: > ManyMembers } kept && now - kept.At < CountKept)
        {
            return kept.Members;
        }

        var active = await db.Members.CountAsync(stop) - await db.Members.CountAsync(m => m.Status != (int)MemberStatus.Active, stop);
        counted = new Counted(active, now);
        return active;
    }

    private sealed record Counted(int Members, DateTimeOffset At);

    private static async Task<IReadOnlyList<FactSet>> NamedAsync(
        StoreContext db, List<(Visitor Visitor, int Members, List<Guid> Some)> sets, CancellationToken stop)
    {
        var some = sets.SelectMany(s => s.Some).Take(MostNames).ToList();
        var names = await db.Members.AsNoTracking().Where(m => some.Contains(m.Id)).Select(m => new { m.Id, m.Name })
            .ToDictionaryAsync(m => m.Id, m => m.Name, stop);
        return [.. sets.Select(s => new FactSet(s.Visitor, s.Members, [.. s.Some.Where(names.ContainsKey).Select(id => names[id])]))];
    }

    private static IQueryable<GrantRow> Relevant(StoreContext db, IReadOnlyCollection<(FactKind Kind, string Key)> facts)
    {
        List<string> Of(FactKind kind) => [.. facts.Where(f => f.Kind == kind).Select(f => f.Key).Distinct()];
        var (roles, groups, plans, bought) = (Of(FactKind.Role), Of(FactKind.Group), Of(FactKind.Plan), Of(FactKind.Bought));
        return db.Grants.AsNoTracking().Where(g => (g.Kind == (int)FactKind.Role && roles.Contains(g.Key))
            || (g.Kind == (int)FactKind.Group && groups.Contains(g.Key)) || (g.Kind == (int)FactKind.Plan && plans.Contains(g.Key))
            || (g.Kind == (int)FactKind.Bought && bought.Contains(g.Key)));
    }

    /// <summary>
    /// Counts members by what they hold, as their facts come by in any order: each member is in one set at a time, and a further fact moves them to a
    /// larger one.
    /// </summary>
    private sealed class Gathering(Dictionary<Guid, string> apart, HashSet<Guid> inactive)
    {
        private readonly List<Set> sets = [new Set([])];
        private readonly Dictionary<(int Set, FactKind Kind, string Key), int> larger = [];
        private readonly Dictionary<string, int> byName = new(StringComparer.Ordinal);
        private readonly Dictionary<Guid, int> setOf = [];

        private sealed record Set(List<Grant> Grants);

        public void Take(Guid member, FactKind kind, string key)
        {
            if (inactive.Contains(member))
            {
                return;
            }

            ref var mine = ref System.Runtime.InteropServices.CollectionsMarshal.GetValueRefOrAddDefault(setOf, member, out _);
            if (!larger.TryGetValue((mine, kind, key), out var next))
            {
                larger[(mine, kind, key)] = next = With(mine, new Grant(kind, key));
            }

            mine = next;
        }

        public List<(Visitor Visitor, int Members, List<Guid> Some)> Close()
        {
            var counts = new Dictionary<(int Set, string? Email), (int Members, List<Guid> Some)>();
            foreach (var (member, set) in setOf.Concat(apart.Keys.Where(id => !setOf.ContainsKey(id)).Select(id => KeyValuePair.Create(id, 0))))
            {
                var key = (set, apart.GetValueOrDefault(member));
                var (members, some) = counts.TryGetValue(key, out var there) ? there : (0, []);
                if (some.Count < NamesOfSet)
                {
                    some.Add(member);
                }

                counts[key] = (members + 1, some);
            }

            return [.. counts.Select(c => (new Visitor { IsSignedIn = true, Email = c.Key.Email, Grants = sets[c.Key.Set].Grants }, c.Value.Members,
                c.Value.Some))];
        }

        /// <summary>The set with one fact more; the same fact may be held from several sources.</summary>
        private int With(int set, Grant grant)
        {
            if (sets[set].Grants.Contains(grant))
            {
                return set;
            }

            List<Grant> all = [.. sets[set].Grants.Append(grant).OrderBy(g => g.Kind).ThenBy(g => g.Key, StringComparer.Ordinal)];
            var name = string.Join('\n', all.Select(g => g.Fact));
            if (!byName.TryGetValue(name, out var number))
            {
                byName[name] = number = sets.Count;
                sets.Add(new Set(all));
            }

            return number;
        }
    }
}
