using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>
/// Groups that have a rule: whoever is signed in and is admitted by the rule is in the group, at once and for as long as that is so. Who was put into
/// it by hand is in it as well. Immutable.
/// </summary>
public sealed record GroupRules : IPolicyPart
{
    /// <summary>The most facts that a rule may hang on, those of the groups that it names included.</summary>
    public const int MostFacts = 2000;

    private readonly SortedDictionary<string, Audience> written = new(StringComparer.Ordinal);
    private readonly Dictionary<string, Audience> bound = new(StringComparer.Ordinal);

    /// <summary>None.</summary>
    public GroupRules()
    {
    }

    /// <summary>Some, by the keys of their groups. Throws <see cref="ArgumentException"/> where they stand in a ring; see <see cref="RingAmong"/>.</summary>
    public GroupRules(IEnumerable<KeyValuePair<string, Audience>> rules)
    {
        foreach (var (group, rule) in rules)
        {
            written[group] = rule;
        }

        if (RingAmong(written) is { } ring)
        {
            throw new ArgumentException("Rules in a ring: " + string.Join(", ", ring), nameof(rules));
        }

        foreach (var group in written.Keys)
        {
            Of(group);
        }
    }

    /// <summary>The rules as they were written, by the keys of their groups.</summary>
    public IReadOnlyDictionary<string, Audience> Written => written;

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => written.Select(r => new NamedAudience("group", r.Key, r.Value));

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map) =>
        written.Values.All(r => ReferenceEquals(map(r), r)) ? this : new GroupRules(written.Select(r => KeyValuePair.Create(r.Key, map(r.Value))));

    /// <summary>The rule of a group, bound to the rules of those that it names; null where it has none.</summary>
    public Audience? Of(string group)
    {
        if (bound.TryGetValue(group, out var made))
        {
            return made;
        }

        return written.TryGetValue(group, out var rule) ? bound[group] = Bind(rule) : null;
    }

    /// <summary>An expression bound to these rules; the very same where nothing about it changes.</summary>
    public Audience Bind(Audience audience) => audience.Replacing(f => f.Kind == FactKind.Group ? f.BoundTo(Of(f.Key)) : f);

    /// <summary>The groups by rule that a visitor is in.</summary>
    public IEnumerable<string> GroupsOf(Visitor visitor, DateTimeOffset now) =>
        visitor.IsSignedIn ? written.Keys.Where(g => Of(g)!.Admits(visitor, "", now)) : [];

    /// <summary>The rules as they would be written with others for some groups, or with none.</summary>
    public IReadOnlyDictionary<string, Audience> After(IReadOnlyDictionary<string, Audience?> changes)
    {
        var all = new Dictionary<string, Audience>(written, StringComparer.Ordinal);
        foreach (var (group, rule) in changes)
        {
            all.Remove(group);
            if (rule is not null)
            {
                all.Add(group, rule);
            }
        }

        return all;
    }

    /// <summary>What does not fit together among rules; null where all does.</summary>
    public static Problem? FaultOf(IReadOnlyDictionary<string, Audience> rules)
    {
        if (RingAmong(rules) is { } ring)
        {
            return Problem.In("rule", "group-ring", string.Join(" → ", ring.Select(g => "group:" + g)));
        }

        var all = new GroupRules(rules);
        return rules.Keys.FirstOrDefault(g => all.WeightOf(rules[g]) > MostFacts) is { } large
            ? Problem.In("rule", "group-rule-large", large, MostFacts) : null;
    }

    /// <summary>Groups of which each names the next in its rule, and the last the first, which stands at both ends; null where there are none.</summary>
    public static IReadOnlyList<string>? RingAmong(IReadOnlyDictionary<string, Audience> rules)
    {
        var done = new HashSet<string>(StringComparer.Ordinal);
        var way = new List<string>();
        IReadOnlyList<string>? Walk(string group)
        {
            if (way.IndexOf(group) is >= 0 and var begin)
            {
                return [.. way[begin..], group];
            }

            if (done.Contains(group) || !rules.TryGetValue(group, out var rule))
            {
                return null;
            }

            way.Add(group);
            foreach (var named in rule.Atoms().OfType<Audience.Fact>().Where(f => f.Kind == FactKind.Group).Select(f => f.Key).Distinct())
            {
                if (Walk(named) is { } ring)
                {
                    return ring;
                }
            }

            way.RemoveAt(way.Count - 1);
            done.Add(group);
            return null;
        }

        foreach (var group in rules.Keys)
        {
            if (Walk(group) is { } ring)
            {
                return ring;
            }
        }

        return null;
    }

    /// <summary>How many facts a rule hangs on, counted up to one more than <see cref="MostFacts"/>, however often groups name each other.</summary>
    public int WeightOf(Audience rule) => Bind(rule).FactsAsked().Take(MostFacts + 1).Count();
}

/// <summary>Gives a group a rule, or none.</summary>
public sealed record GroupRuleSet(string Group, Audience? Rule) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Part<GroupRulesDraft>().Rules[Group] = Rule;
}

/// <summary>What becomes of the rules by an edit. They are put together when all of it is made: half of it may stand in a ring that the whole does
/// not.</summary>
public sealed class GroupRulesDraft
{
    /// <summary>By group; null where it is to have none.</summary>
    public Dictionary<string, Audience?> Rules { get; } = new(StringComparer.Ordinal);
}
