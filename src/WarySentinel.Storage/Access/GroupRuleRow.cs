using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Storage.Access;

/// <summary>The rule of a group.</summary>
internal sealed class GroupRuleRow
{
    public required string Group { get; set; }

    public required string Rule { get; set; }

    public static void Map(EntityTypeBuilder<GroupRuleRow> e)
    {
        e.ToTable("group_rules");
        e.HasKey(r => r.Group);
    }

    /// <summary>
    /// The rules that can be read and stand in no ring. Of each other one is told; the gates that hang on its group, by another rule too, are closed: a
    /// group that is not known might be one that is left out.
    /// </summary>
    public static GroupRules Read(IReadOnlyList<GroupRuleRow> rows, IReadOnlyList<Gate> gates, List<StoredFault> faults)
    {
        var (good, bad) = (new Dictionary<string, Audience>(StringComparer.Ordinal), new Dictionary<string, Wording>(StringComparer.Ordinal));
        foreach (var row in rows)
        {
            var read = AudienceParser.ParseStored(row.Rule);
            if (read.Problem is { } problem)
            {
                bad[row.Group] = Wording.Of("stored.audience", problem.Detail, row.Rule);
            }
            else
            {
                good[row.Group] = read.Value;
            }
        }

        while (GroupRules.RingAmong(good) is { } ring)
        {
            foreach (var group in ring.Distinct())
            {
                good.Remove(group);
                bad[group] = Wording.Of("problem.group-ring", string.Join(" → ", ring));
            }
        }

        foreach (var (group, reason) in bad)
        {
            var hanging = new HashSet<string>(StringComparer.Ordinal) { group };
            while (good.FirstOrDefault(r => !hanging.Contains(r.Key) && NamesAny(r.Value, hanging)).Key is { } further)
            {
                hanging.Add(further);
            }

            faults.Add(new StoredFault("group-rule", group, reason, [.. gates.Where(g => NamesAny(g.Audience, hanging)).SelectMany(g => g.Covers).Distinct()]));
        }

        return new GroupRules(good);
    }

    private static bool NamesAny(Audience audience, HashSet<string> groups) =>
        audience.Atoms().Any(a => a is Audience.Fact { Kind: FactKind.Group } named && groups.Contains(named.Key));
}

/// <summary>How the rules of groups are stored, and how an audience is put in another's place.</summary>
internal static class AudienceChanges
{
    public static void Register(Writers writers)
    {
        writers.On<GroupRuleSet>((w, set) => set.Rule is { } rule
            ? w.PutAsync(new GroupRuleRow { Group = set.Group, Rule = rule.ToString()! }, set.Group)
            : w.Db.GroupRules.Where(r => r.Group == set.Group).ExecuteDeleteAsync(w.Stop));
        writers.On<FactReplaced>((w, replaced) => ReplaceAsync(w, replaced, w.Db.GroupRules, r => r.Rule, (r, text) => r.Rule = text));
    }

    /// <summary>Puts it in place in every row that names the fact and can be read.</summary>
    public static async Task ReplaceAsync<TRow>(
        Writing w, FactReplaced replaced, DbSet<TRow> table, Func<TRow, string?> of, Action<TRow, string> set)
        where TRow : class
    {
        await w.SaveAsync();
        foreach (var row in await table.ToListAsync(w.Stop))
        {
            if (of(row) is { } text && AudienceParser.ParseStored(text) is { IsGood: true, Value: var audience }
                && replaced.In(audience) is var after && !ReferenceEquals(after, audience))
            {
                set(row, after.ToString()!);
            }
        }

        await w.SaveAsync();
        w.Db.ChangeTracker.Clear();
    }
}
