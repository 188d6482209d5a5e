using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>Adds, copies, changes, renames, retires and removes roles, groups and plans.</summary>
public static class FactCommands
{
    /// <summary>Adds one.</summary>
    /// <param name="policy">The policy as it is.</param>
    /// <param name="kind">Which of the three.</param>
    /// <param name="draft">What is written of it.</param>
    /// <param name="known">The keys that a rule may name; null to take every key.</param>
    /// <param name="like">
    /// The key of another that it is copied from: it takes its pages, unless the draft says others, and every audience that names the other names it too.
    /// </param>
    public static Outcome<Edit<FactDefinition>> Add(Policy policy, FactKind kind, FactDraft draft, IKnownKeys? known, string? like = null)
    {
        var name = FactNames.NameOf(kind);
        FactDefinition? model = null;
        if (!string.IsNullOrWhiteSpace(like) && (model = policy.FindDefinition(kind, like)) is null)
        {
            return Unknown(policy, kind, like, "like");
        }

        if (model is not null)
        {
            draft = draft with
            {
                Home = draft.Home ?? model.Home,
                Length = draft.Length ?? model.Length?.ToString(),
                Grace = draft.Grace ?? model.Grace?.ToString(),
                Remind = draft.Remind ?? model.Remind?.ToString(),
                Starts = draft.Starts ?? (model.Starts == PlanStart.AtOnce ? null : FactDraft.StartNames[(int)model.Starts]),
                Links = draft.Links ?? model.Links,
                Rule = draft.Rule ?? policy.Rules.Written.GetValueOrDefault(model.Key)?.ToString(),
            };
        }

        var faults = new Faults();
        var fresh = draft.Read(kind, faults);
        var rule = draft.ReadRule(kind, known);
        if (faults.Any || rule.Problem is not null)
        {
            return Both(faults, rule.Problem);
        }

        if (policy.FindDefinition(kind, fresh.Key) is not null || (kind == FactKind.Role && StaffRights.Names.Contains(fresh.Key)))
        {
            return Problem.Of(ProblemKind.Conflict, "standing-exists", name, fresh.Key);
        }

        // Whoever was given one of that key in the moment that it was removed does not come to hold another by it.
        var changes = new List<Change> { new FactDefinitionPut(fresh), new GrantsMoved(kind, fresh.Key, null) };
        changes.AddRange(rule.Value is { } written ? [new GroupRuleSet(fresh.Key, written)] : []);
        var notes = new List<Edit>();
        if (model is not null)
        {
            var (own, mine) = (new Audience.Fact(kind, model.Key), new Audience.Fact(kind, fresh.Key));
            Replace(policy, kind, model.Key, new Audience.Many(false, [own, mine]), changes, notes);
        }

        return Fitting(policy, new Edit(Action(kind, "add"), fresh.Key, changes, null, Said(fresh, rule.Value)) { Notes = notes }, fresh);
    }

    /// <summary>Changes what one is called, its pages and its rule.</summary>
    public static Outcome<Edit<FactDefinition>> Set(Policy policy, FactDefinition old, FactDraft draft, IKnownKeys? known, int? version = null)
    {
        if (version is not null && version != old.Version)
        {
            return Problem.Of(ProblemKind.Stale, "stale", old.Key);
        }

        var faults = new Faults();
        var read = (draft with { Key = old.Key }).Read(old.Kind, faults);
        var rule = draft.ReadRule(old.Kind, known);
        if (faults.Any || rule.Problem is not null)
        {
            return Both(faults, rule.Problem);
        }

        var (action, was) = (Action(old.Kind, "set"), policy.Rules.Written.GetValueOrDefault(old.Key));
        var ruleStays = Equals(was, rule.Value) && was?.ToString() == rule.Value?.ToString();
        if (ruleStays && read with { Version = old.Version } == old)
        {
            return new Edit<FactDefinition>(new Edit(action, old.Key, []), old);
        }

        var after = read with { Version = old.Version + 1 };
        IReadOnlyList<Change> changes = ruleStays ? [new FactDefinitionPut(after)] : [new FactDefinitionPut(after), new GroupRuleSet(old.Key, rule.Value)];
        return Fitting(policy, new Edit(action, old.Key, changes, Said(old, was), Said(after, rule.Value)), after);
    }

    /// <summary>Gives one another key: whoever holds it, and whatever names it, goes along.</summary>
    public static Outcome<Edit<FactDefinition>> Rename(Policy policy, FactKind kind, string key, string? to)
    {
        if (policy.FindDefinition(kind, key) is not { } old)
        {
            return Unknown(policy, kind, key);
        }

        if (!CatalogueKey.IsValid(to))
        {
            return Problem.In("to", "key-form", to);
        }

        if (policy.FindDefinition(kind, to!) is not null || (kind == FactKind.Role && StaffRights.Names.Contains(to)))
        {
            return Problem.Of(ProblemKind.Conflict, "standing-exists", FactNames.NameOf(kind), to);
        }

        var after = old with { Key = to!, Version = old.Version + 1 };
        var (changes, notes) = (new List<Change> { new FactDefinitionPut(after) }, new List<Edit>());
        Go(policy, old, new Audience.Fact(kind, to!), changes, notes);
        return Fitting(policy, new Edit(Action(kind, "rename"), key, changes, key, to) { Notes = notes }, after);
    }

    /// <summary>
    /// Retires one. What names it names another from then on, and who holds it holds that; where it is not to be followed by another, nothing may name it
    /// still, and it ends for those who hold it.
    /// </summary>
    public static Outcome<Edit<FactDefinition>> Retire(Policy policy, FactKind kind, string key, string? to)
    {
        if (policy.FindDefinition(kind, key) is not { } old)
        {
            return Unknown(policy, kind, key);
        }

        var next = string.IsNullOrWhiteSpace(to) ? null : policy.FindDefinition(kind, to);
        if (!string.IsNullOrWhiteSpace(to) && next is null)
        {
            return Unknown(policy, kind, to, "to");
        }

        if (next == old)
        {
            return Problem.In("to", "standing-itself", FactNames.NameOf(kind), key);
        }

        if (next is null && NamedBy(policy, kind, key) is { } naming)
        {
            return naming;
        }

        var (changes, notes) = (new List<Change>(), new List<Edit>());
        Go(policy, old, next is null ? null : new Audience.Fact(kind, next.Key), changes, notes);
        return Fitting(policy, new Edit(Action(kind, "retire"), key, changes, old.Title, next?.Title) { Notes = notes }, old);
    }

    /// <summary>Removes one. Refused while something names it, or members hold it.</summary>
    public static Outcome<Edit<FactDefinition>> Remove(Policy policy, FactKind kind, string key, int holders)
    {
        var name = FactNames.NameOf(kind);
        if (policy.FindDefinition(kind, key) is not { } old)
        {
            return Unknown(policy, kind, key);
        }

        if (NamedBy(policy, kind, key) is { } naming)
        {
            return naming;
        }

        return holders > 0 ? Held(name, key, holders)
            : new Edit<FactDefinition>(
                new Edit(Action(kind, "remove"), key, Dropping(policy, old), Said(old, policy.Rules.Written.GetValueOrDefault(key))), old);
    }

    /// <summary>What drops one, with its rule.</summary>
    public static IReadOnlyList<Change> Dropping(Policy policy, FactDefinition old)
    {
        List<Change> changes = old.Kind == FactKind.Group && policy.Rules.Written.ContainsKey(old.Key) ? [new GroupRuleSet(old.Key, null)] : [];
        changes.Add(new FactDefinitionDropped(old.Kind, old.Key));
        // Nobody becomes staff because a role of the site that was called like a staff right is gone.
        changes.AddRange(old.Kind == FactKind.Role && StaffRights.Names.Contains(old.Key) ? [new GrantsMoved(old.Kind, old.Key, null)] : []);
        return changes;
    }

    /// <summary>The problem of one that members hold.</summary>
    public static Problem Held(string name, string key, int holders) =>
        new(ProblemKind.Conflict, "standing-held", Wording.Count("problem.standing-held", holders, name, key), []);

    /// <summary>The problem of one that something names, with the first that does; its own rule aside.</summary>
    private static Problem? NamedBy(Policy policy, FactKind kind, string key)
    {
        var naming = FactUses.In(policy, kind, key);
        return naming.Count == 0 ? null
            : Problem.Of(ProblemKind.Conflict, "standing-in-" + naming[0].Kind, FactNames.NameOf(kind), key, naming[0].Key);
    }

    /// <summary>One goes, and another takes its place, or none.</summary>
    private static void Go(Policy policy, FactDefinition old, Audience.Fact? next, List<Change> changes, List<Edit> notes)
    {
        var rule = old.Kind == FactKind.Group ? policy.Rules.Written.GetValueOrDefault(old.Key) : null;
        if (rule is not null && next is not null && policy.FindDefinition(old.Kind, next.Key) is null)
        {
            // Only what is renamed takes its rule along; another has its own, or is kept by hand.
            changes.Add(new GroupRuleSet(next.Key, rule));
        }

        if (next is not null)
        {
            Replace(policy, old.Kind, old.Key, next, changes, notes);
        }

        changes.AddRange(Dropping(policy, old));
        changes.Add(new GrantsMoved(old.Kind, old.Key, next?.Key));
    }

    private static void Replace(Policy policy, FactKind kind, string key, Audience instead, List<Change> changes, List<Edit> notes)
    {
        var replaced = new FactReplaced(kind, key, instead);
        changes.Add(replaced);
        try
        {
            notes.AddRange(FactUses.In(policy, kind, key)
                .Select(n => new Edit(n.Kind + ".set", n.Key, [], n.Audience.ToString(), replaced.In(n.Audience).ToString())));
        }
        catch (ArgumentException)
        {
            // Told where it is fitted.
        }
    }

    /// <summary>The edit with the policy after it, or what does not fit together then.</summary>
    private static Outcome<Edit<FactDefinition>> Fitting(Policy policy, Edit edit, FactDefinition value)
    {
        try
        {
            var after = policy.TryAfter(edit);
            return after.Problem is { } problem ? problem : new Edit<FactDefinition>(new CompiledEdit(edit, after.Value), value);
        }
        catch (ArgumentException)
        {
            return Problem.Of(ProblemKind.Conflict, "standing-tangled", FactNames.NameOf(value.Kind), value.Key);
        }
    }

    /// <summary>What the audit trail calls it; a kind of pass is another thing than a pass.</summary>
    private static string Action(FactKind kind, string done) => $"{(kind == FactKind.Pass ? "pass-kind" : FactNames.NameOf(kind))}.{done}";

    private static Problem Both(Faults faults, Problem? rule)
    {
        if (rule is not null)
        {
            faults.Take(rule);
        }

        return faults.ToProblem();
    }

    private static Problem Unknown(Policy policy, FactKind kind, string key, string? field = null)
    {
        var (name, near) = (FactNames.NameOf(kind), Nearest.To(key, policy.Definitions.Where(d => d.Kind == kind).Select(d => d.Key).Take(5000)));
        var (code, values) = (near is null ? "standing-unknown" : "standing-unknown-near", new object?[] { name, key, near });
        return field is null ? Problem.Of(ProblemKind.NotFound, code, values) : Problem.In(field, code, values);
    }

    private static string Said(FactDefinition one, Audience? rule)
    {
        IEnumerable<string> parts =
        [
            one.Title, .. one.Home is null ? Array.Empty<string>() : [one.Home], .. one.Links.Select(l => $"{l.Words} ({l.Address})"),
            .. rule is null ? Array.Empty<string>() : [rule.ToString()!], .. new[] { one.Length, one.Grace, one.Remind }.OfType<PlanLength>()
                .Select(l => l.ToString()), .. one.Starts == PlanStart.AtOnce ? Array.Empty<string>() : [FactDraft.StartNames[(int)one.Starts]],
        ];
        return string.Join(", ", parts);
    }
}
