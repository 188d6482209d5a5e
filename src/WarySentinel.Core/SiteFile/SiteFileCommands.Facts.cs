using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;

namespace WarySentinel.Core.SiteFile;

/// <summary>Roles, groups and plans of a site file.</summary>
public sealed partial class SiteFileCommands
{
    private void Standings(FactKind kind, string section, IReadOnlyList<Written<FactDraft>>? entries)
    {
        var old = policy.Definitions.Where(s => s.Kind == kind).ToDictionary(s => s.Key, StringComparer.Ordinal);
        if (entries is null)
        {
            beside += old.Count;
            return;
        }

        var seen = new HashSet<string>(StringComparer.Ordinal);
        foreach (var entry in entries)
        {
            var key = entry.Draft.Key ?? "";
            if (!seen.Add(key))
            {
                Bad(entry, new Fault("key", Wording.Of("apply.twice", key)));
                continue;
            }

            Standing(kind, section, entry, key, old.GetValueOrDefault(key));
        }

        foreach (var gone in old.Values.Where(s => !seen.Contains(s.Key)))
        {
            Gone(kind, section, gone);
        }
    }

    private void Standing(FactKind kind, string section, Written<FactDraft> entry, string key, FactDefinition? there)
    {
        // Rules are read when all keys are known; until then a group keeps the one that it has.
        var was = policy.Rules.Written.GetValueOrDefault(key);
        var draft = entry.Draft with { Title = entry.Draft.Title ?? entry.Draft.Key, Rule = kind == FactKind.Group ? was?.ToString() : entry.Draft.Rule };
        var read = there is null ? FactCommands.Add(policy, kind, draft with { Rule = kind == FactKind.Group ? null : draft.Rule }, null)
            : FactCommands.Set(policy, there, draft, null);
        if (read.Problem is { } problem)
        {
            Bad(entry, problem.Faults.Count > 0 ? problem.Faults[0] : new Fault("key", problem.Detail));
            return;
        }

        changes.AddRange(read.Value.ToStore.Changes);
        var (before, after) = (there is null ? null : FactDraft.Of(there, was), FactDraft.Of(read.Value.Value, null));
        if (kind == FactKind.Group)
        {
            groups.Add((entry, before, after));
        }
        else
        {
            TellStanding(section, before, after, read.Value.ToStore.Changes.Count > 0);
        }
    }

    /// <summary>The rules of groups, against the keys as they will be; with them, what becomes of each group is known.</summary>
    private void Rules(IKnownKeys known)
    {
        foreach (var (entry, before, after) in groups)
        {
            var rule = entry.Draft.ReadRule(FactKind.Group, known);
            if (rule.Problem is { } problem)
            {
                Bad(entry, problem.Faults[0]);
                continue;
            }

            var said = rule.Value?.ToString();
            if (said != before?.Rule)
            {
                changes.Add(new GroupRuleSet(after.Key!, rule.Value));
            }

            var differs = before is null || before.Title != after.Title || before.Rule != said;
            TellStanding("groups", before, after with { Rule = said }, differs);
        }

        Ring();
    }

    /// <summary>Rules in a ring, or too large, are told of at the first group of the file that has part in it.</summary>
    private void Ring()
    {
        var sets = changes.OfType<GroupRuleSet>().ToDictionary(s => s.Group, s => s.Rule, StringComparer.Ordinal);
        if (sets.Count > 0 && GroupRules.FaultOf(policy.Rules.After(sets)) is { } problem)
        {
            var at = groups.FirstOrDefault(g => sets.ContainsKey(g.After.Key!) && sets[g.After.Key!] is not null);
            if (at.Entry is null)
            {
                faults.Add(problem.Faults[0] with { Field = "groups" });
            }
            else
            {
                Bad(at.Entry, problem.Faults[0]);
            }
        }
    }

    private void TellStanding(string section, FactDraft? before, FactDraft after, bool differs)
    {
        if (differs)
        {
            Tell(section, after.Key!, before, after);
        }
        else
        {
            same++;
        }
    }

    private void Gone(FactKind kind, string section, FactDefinition gone)
    {
        if (!prune)
        {
            beside++;
        }
        else if (holders(kind, gone.Key) is > 0 and var count)
        {
            // It stays with whoever holds it; the rest is done.
            kept.Add(FactCommands.Held(FactNames.NameOf(kind), gone.Key, count).Detail);
            beside++;
        }
        else
        {
            changes.AddRange(FactCommands.Dropping(policy, gone));
            Tell(section, gone.Key, FactDraft.Of(gone, policy.Rules.Written.GetValueOrDefault(gone.Key)), null);
        }
    }
}
