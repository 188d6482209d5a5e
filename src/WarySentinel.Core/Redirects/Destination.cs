using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Redirects;

/// <summary>Why somebody lands where they land, or does not.</summary>
public enum DestinationWhy
{
    /// <summary>A rule that insists.</summary>
    Insists,
    /// <summary>The page that they wanted.</summary>
    Wanted,
    /// <summary>What the form says that they used.</summary>
    Form,
    /// <summary>A rule.</summary>
    Rule,
    /// <summary>The home page of a role of theirs.</summary>
    Home,
    /// <summary>Nothing says, or nothing that they may open.</summary>
    Nothing,
}

/// <summary>What came of a way that was looked at.</summary>
public enum DestinationStep
{
    /// <summary>They land there.</summary>
    Taken,
    /// <summary>The rule is not for them.</summary>
    NotForThem,
    /// <summary>They may not open it: such a page is never a landing.</summary>
    Closed,
    /// <summary>It needs something that is not known of them.</summary>
    Missing,
}

/// <summary>A way that was looked at, in the order in which they are.</summary>
/// <param name="Why">What says so.</param>
/// <param name="Rule">The key of the rule, where it is one.</param>
/// <param name="To">The address, with place-holders filled in where they can be.</param>
/// <param name="Step">What came of it.</param>
public sealed record DestinationWay(DestinationWhy Why, string? Rule, string To, DestinationStep Step);

/// <summary>Who lands, and on what occasion.</summary>
/// <param name="On">The occasion.</param>
/// <param name="Visitor">Their facts.</param>
/// <param name="Wanted">The page that they were going to.</param>
/// <param name="Form">Where the form that they used leads.</param>
public sealed record Lander(RedirectOn On, Visitor Visitor, string? Wanted = null, string? Form = null)
{
    /// <summary>Whom rules are for: who they were until now, where that is another, as for those who sign out.</summary>
    public Visitor Whose { get; init; } = Visitor;
}

/// <summary>
/// Where somebody lands: a rule that insists comes first, then the page that they wanted, then what the form says, then the other rules in their order,
/// then the home page of a role of theirs. A page that they may not open is never a landing.
/// </summary>
/// <param name="To">The address; null where nothing says.</param>
/// <param name="Why">What says so.</param>
/// <param name="Rule">The key of the rule, where it is one.</param>
/// <param name="Ways">Everything that was looked at up to there.</param>
public sealed record Destination(string? To, DestinationWhy Why, string? Rule, IReadOnlyList<DestinationWay> Ways)
{
    /// <summary>Finds it.</summary>
    public static Destination Of(Policy policy, Lander lander, DateTimeOffset now)
    {
        var ways = new List<DestinationWay>();
        foreach (var way in WaysOf(policy, lander, now))
        {
            ways.Add(way);
            if (way.Step == DestinationStep.Taken)
            {
                return new Destination(way.To, way.Why, way.Rule, ways);
            }
        }

        return new Destination(null, DestinationWhy.Nothing, null, ways);
    }

    /// <summary>
    /// Where somebody is led instead of being refused; null where they are refused. What the owner chose for the gate stands, unless a rule insists.
    /// </summary>
    public static string? OfRefusal(Policy policy, Visitor visitor, Refusal refusal, string wanted, DateTimeOffset now)
    {
        if (RedirectBook.Of(policy).All.All(r => r.On != RedirectOn.Refusal))
        {
            return null;
        }

        var found = Of(policy, new Lander(RedirectOn.Refusal, visitor, wanted), now);
        return found.Why == DestinationWhy.Insists || (found.Why == DestinationWhy.Rule && refusal.Gate.Answer == Answer.Auto) ? found.To : null;
    }

    private static IEnumerable<DestinationWay> WaysOf(Policy policy, Lander lander, DateTimeOffset now)
    {
        var places = new Placeholders(lander.Whose.NameInAddresses, FirstRole(policy, lander.Whose, now), lander.Wanted, HomeOf(policy, lander.Visitor, now));
        var rules = RulesOf(policy, lander.On);
        DestinationWay By(Redirect rule) => WayOf(policy, lander, rule, places, now);
        DestinationWay To(DestinationWhy why, string address) =>
            new(why, null, address, Landing.IsOpen(policy, address, lander.Visitor, now) ? DestinationStep.Taken : DestinationStep.Closed);

        return rules.Where(r => r.Insists).Select(By)
            .Concat(lander.Wanted is { } wanted ? [To(DestinationWhy.Wanted, wanted)] : [])
            .Concat(lander.Form is { } form ? [To(DestinationWhy.Form, form)] : [])
            .Concat(rules.Where(r => !r.Insists).Select(By))
            .Concat(places.Home is { } home && lander.On is not (RedirectOn.SignOut or RedirectOn.Refusal or RedirectOn.Unlock)
                ? [To(DestinationWhy.Home, home)] : []);
    }

    /// <summary>The rules of an occasion. Who signs in for the first time lands as others do where no rule of that says.</summary>
    private static List<Redirect> RulesOf(Policy policy, RedirectOn on)
    {
        var all = RedirectBook.Of(policy).All;
        return [.. all.Where(r => r.On == on), .. on == RedirectOn.FirstSignIn ? all.Where(r => r.On == RedirectOn.SignIn) : []];
    }

    private static DestinationWay WayOf(Policy policy, Lander lander, Redirect rule, Placeholders places, DateTimeOffset now)
    {
        var why = rule.Insists ? DestinationWhy.Insists : DestinationWhy.Rule;
        if (!rule.Audience.Admits(lander.Whose, "", now))
        {
            return new DestinationWay(why, rule.Key, rule.To, DestinationStep.NotForThem);
        }

        return places.In(rule.To) is not { } to ? new DestinationWay(why, rule.Key, rule.To, DestinationStep.Missing)
            : new DestinationWay(why, rule.Key, to, Landing.IsOpen(policy, to, lander.Visitor, now) ? DestinationStep.Taken : DestinationStep.Closed);
    }

    private static string? FirstRole(Policy policy, Visitor visitor, DateTimeOffset now) =>
        policy.Definitions.FirstOrDefault(d => d.Kind == FactKind.Role && visitor.Has(FactKind.Role, d.Key, now))?.Key;

    private static string? HomeOf(Policy policy, Visitor visitor, DateTimeOffset now) => policy.Definitions
        .FirstOrDefault(d => d is { Kind: FactKind.Role, Home: { } home } && visitor.Has(FactKind.Role, d.Key, now)
            && Landing.IsOpen(policy, home, visitor, now))?.Home;
}
