using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;

namespace WarySentinel.Core.Orders;

/// <summary>What the lines of an order are promised.</summary>
internal static class OrderPromises
{
    /// <summary>What each line is promised: as it was, or by the rule that is for it now; and what is missing where it cannot be.</summary>
    public static (IReadOnlyList<OrderPromise> Promises, string? Missing) Of(Policy policy, OrderFile file, OrderStory story)
    {
        var (book, promises, unknown, tooMany, untold) = (FulfilmentBook.Of(policy), new List<OrderPromise>(), false, false, false);
        for (var n = 0; n < story.Lines.Count; n++)
        {
            if (file.Order?.Promises.FirstOrDefault(p => p.Line == n && p.Of == story.Lines[n].Whole) is { } made)
            {
                promises.Add(made);
                continue;
            }

            if (book.For(story.Lines[n]) is not { } rule || (rule.Way == FulfilmentWay.Link && !rule.Gives.All(f => IsInFolder(file, f))))
            {
                // Where there is nothing to be sent to, nothing can be delivered yet. What is bought no more waits for nobody.
                unknown |= story.Times[n].Until is null;
                continue;
            }

            if (rule.Gate is { } gate && !file.HasPassword(gate))
            {
                untold |= story.Times[n].Until is null;
                continue;
            }

            var promise = Promised(policy, rule, story.Lines[n], n, file.Events.All(e => e is { Source: "import", Raw: not null }));
            if (promise.Seats > OrganisationCommands.MostSeats)
            {
                tooMany = true;
                continue;
            }

            if (rule.Most is { } most && story.Times[n].Until is null && file.Others.Count(o => o.Order.Promises.Any(p => p.Rule == rule.Key))
                + promises.Count(p => p.Rule == rule.Key && story.Times[p.Line].Until is null) >= most)
            {
                tooMany = true;
                continue;
            }

            promises.Add(promise);
        }

        return (promises, unknown ? "code" : tooMany ? "limit" : untold ? "password" : null);
    }

    private static OrderPromise Promised(Policy policy, FulfilmentRule rule, OrderLine line, int place, bool isFiled)
    {
        // What several people use together begins for all of them: nobody's first use begins it for the others. Orders of long ago have begun.
        PlanStart Starts(GivenFact fact) => (PlanOf(policy, rule.Gives, fact)?.Starts ?? PlanStart.AtOnce) is var starts
            && (isFiled || (starts == PlanStart.OnUse && rule.Quantity == QuantityMeaning.Seats)) ? PlanStart.AtOnce : starts;
        return new OrderPromise(
            place, line.Whole, rule.Key, [.. rule.Gives.Select(f => new PromisedFact(f, rule.Length ?? LengthOf(policy, rule.Gives, f))
            { Trial = rule.Trial, Starts = Starts(f) })], rule.Way, rule.Quantity == QuantityMeaning.Lengths ? line.Quantity : 1)
        {
            Most = rule.Most, LandsOn = rule.LandsOn, Gate = rule.Gate, Seats = rule.Quantity == QuantityMeaning.Seats ? line.Quantity : null,
        };
    }

    private static bool IsInFolder(OrderFile file, GivenFact fact) => ItemId.TryParse(fact.Key, out var id) && file.HasFolder(id);

    /// <summary>For how long a fact is given: a plan for as long as it lasts, and roles and groups that come with it for as long as it does.</summary>
    private static PlanLength? LengthOf(Policy policy, IReadOnlyList<GivenFact> with, GivenFact fact) => PlanOf(policy, with, fact)?.Length;

    /// <summary>How long a fact goes on after its end: as long as the plan does that it is, or came with.</summary>
    public static PlanLength? GraceOf(Policy policy, IReadOnlyList<ToldOrder> orders, GivenFact fact) => orders.SelectMany(o => o.Order.Promises)
        .Where(p => p.Facts.Any(f => f.Fact == fact)).Select(p => PlanOf(policy, [.. p.Facts.Select(f => f.Fact)], fact)?.Grace)
            .FirstOrDefault(g => g is not null);

    private static FactDefinition? PlanOf(Policy policy, IReadOnlyList<GivenFact> with, GivenFact fact) => fact.Kind switch
    {
        FactKind.Plan => policy.FindDefinition(FactKind.Plan, fact.Key),
        FactKind.Role or FactKind.Group or FactKind.Pass => with.Where(f => f.Kind == FactKind.Plan).Select(f => policy.FindDefinition(FactKind.Plan, f.Key))
            .FirstOrDefault(p => p?.Length is not null),
        _ => null,
    };
}
