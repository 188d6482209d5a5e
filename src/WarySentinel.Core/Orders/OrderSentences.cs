using System.Globalization;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Orders;

/// <summary>Fulfilment rules, and what orders would do, in sentences.</summary>
public static class OrderSentences
{
    /// <summary>A rule in a sentence.</summary>
    public static string Of(FulfilmentRule rule, Policy policy, Wordbook book)
    {
        var end = rule.LandsOn is { } led ? book.Of("fulfilment.lands", led) : "";
        if (rule.Gate is { } gate)
        {
            return book.Of("fulfilment.tells", rule.Code, policy.FindGate(gate)?.Title ?? gate, end);
        }

        var gives = rule.Gives.Count == 0 ? book.Of("fulfilment.nothing") : Listed([.. rule.Gives.Select(f => Named(f, policy, book))], book);
        var length = rule.Length is { } lasts ? book.Of("fulfilment.for", Said(lasts, book)) : "";
        var times = rule.Quantity == QuantityMeaning.Nothing ? "" : book.Of("fulfilment." + FulfilmentDraft.Quantities[(int)rule.Quantity]);
        times += rule.Trial is { } first ? book.Of("fulfilment.trial", Said(first, book)) : "";
        var most = rule.Most is { } often ? book.Of("fulfilment.most", often) : "";
        var way = rule.Gives.Count > 0 && rule.Gives.All(f => f.Kind == FactKind.Pass) ? book.Of("fulfilment.by-pass")
            : book.Of("fulfilment." + FulfilmentDraft.Ways[(int)rule.Way]);
        return book.Of("fulfilment.sentence", rule.Code, gives, length, times, way, most, end);
    }

    /// <summary>What taking an order up would do, a sentence each.</summary>
    /// <param name="taken">What came of it, before it is stored.</param>
    /// <param name="policy">The policy.</param>
    /// <param name="before">What its account had before.</param>
    /// <param name="now">Now.</param>
    /// <param name="book">The reader's words.</param>
    public static IReadOnlyList<string> Would(TakenUp taken, Policy policy, IReadOnlyList<Grant> before, DateTimeOffset now, Wordbook book)
    {
        var (order, said) = (taken.Order, new List<string>());
        var fresh = (taken.Member?.Grants ?? []).Where(g => g.Source.Kind == "order" && !before.Any(b => b.Source == g.Source && b.Kind == g.Kind
            && b.Key == g.Key && b.From == g.From && b.Until == g.Until)).ToList();
        if (taken.IsNew)
        {
            said.Add(book.Of("would.new-account", order.Email));
        }
        else if (fresh.Count > 0)
        {
            said.Add(book.Of("would.account", taken.Member!.Email));
        }

        foreach (var grant in fresh)
        {
            var (title, dates) = (Named(new GivenFact(grant.Kind, grant.Key), policy, book), new SiteDates(policy.Settings.TimeZone));
            string Day(DateTimeOffset at) => dates.SayIn(CultureInfo.CurrentUICulture, at, false);
            said.Add(grant.From >= grant.Until ? book.Of("would.never", title) : grant.IsOver(now) ? book.Of("would.over", title, Day(grant.Until!.Value))
                : grant.Until is { } until ? grant.From > now ? book.Of("would.from-until", title, Day(grant.From.Value), Day(until))
                    : book.Of("would.until", title, Day(until))
                : book.Of("would.always", title));
        }

        var told = new ToldOrder(order, taken.Story);
        said.AddRange(OrderSeats.Of(told) is > 0 and var seats ? [book.Of("would.seats", seats)] : []);
        said.AddRange(order.Promises.Where(p => p is { Gate: not null, IsTold: true }).Select(p => policy.FindGate(p.Gate!)?.Title ?? p.Gate!).Distinct()
            .Where(_ => taken.Letters.Any(l => l.Promises.Any(p => p.Gate is not null))).Select(gate => book.Of("would.tells", order.Email, gate)));
        var waits = order.Promises.SelectMany(p => p.Facts).Where(f => f.Starts == PlanStart.ByHand).Select(f => f.Fact).Intersect(told.Waits).ToList();
        said.AddRange(waits.Count > 0 ? [book.Of("would.not-begun", Listed([.. waits.Select(f => Named(f, policy, book))], book))] : []);
        said.AddRange(taken.Passes.Select(p => book.Of(
            "would.pass", Named(new GivenFact(FactKind.Pass, p.Pass.Kind), policy, book), order.Email, p.Pass.Until is { } until
                ? book.Of("would.pass-until", new SiteDates(policy.Settings.TimeZone).SayIn(CultureInfo.CurrentUICulture, until, false)) : "")));
        if (order.WaitsFor is { } wait)
        {
            var known = order.Promises.Select(p => p.Line).ToHashSet();
            var missing = string.Join(", ", taken.Story.Present.Where(l => !known.Contains(l.Place)).Select(l => l.Line.Name).Distinct());
            said.Add(book.Of("would.waits." + wait, missing, order.Email));
        }

        if (order.DueAt is { } due)
        {
            said.Add(book.Of("would.due", new SiteDates(policy.Settings.TimeZone).SayIn(CultureInfo.CurrentUICulture, due, false)));
        }

        said.AddRange(taken.Letters.Select(l => book.Of("would.letter", taken.Member?.Email ?? order.Email, book.Of("letter.kind." + l.Kind))));
        return said.Count > 0 ? said : [book.Of("would.nothing")];
    }

    /// <summary>A fact as people name it.</summary>
    public static string Named(GivenFact fact, Policy policy, Wordbook book) => fact.Kind switch
    {
        FactKind.Bought => book.Of("fulfilment.item", Catalogue.ItemId.TryParse(fact.Key, out var id) && policy.Graph.Find(id) is { } item ? item.Title
            : fact.Key),
        var kind => book.Of("fulfilment." + FactNames.NameOf(kind), policy.FindDefinition(kind, fact.Key)?.Title ?? fact.Key),
    };

    /// <summary>A length in words.</summary>
    public static string Said(PlanLength length, Wordbook book)
    {
        string Count(string unit, int many) => book.Count("fulfilment.length." + unit, many);
        var (years, months, days) = (length.Months / 12, length.Months % 12, length.Days);
        List<string> parts = [.. years > 0 ? [Count("years", years)] : Array.Empty<string>(), .. months > 0 ? [Count("months", months)] : Array.Empty<string>(),
            .. days > 0 ? [Count("days", days)] : Array.Empty<string>()];
        return Listed(parts, book);
    }

    private static string Listed(List<string> parts, Wordbook book) =>
        parts.Count < 2 ? string.Concat(parts) : string.Join(", ", parts.SkipLast(1)) + book.Of("sentence.and") + parts[^1];
}
