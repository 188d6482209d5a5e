using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Prices;

/// <summary>Adds, changes and removes price lists.</summary>
public static class PriceCommands
{
    /// <summary>Most price lists of a site.</summary>
    public const int Most = 100;

    /// <summary>Stores a list; one of that key is replaced. A draft without lines leaves those that there are.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="draft">What is wanted.</param>
    /// <param name="version">The version that was edited; null to write over whatever is there.</param>
    /// <param name="known">The keys that audiences may name.</param>
    public static Outcome<Edit<PriceList>> Put(Policy policy, PriceDraft draft, int? version, IKnownKeys known)
    {
        var book = PriceBook.Of(policy);
        var old = book.Find(draft.Key ?? "");
        // A line whose item has gone from the catalogue says nothing any more, and goes with the next change.
        bool IsGone(PriceLineDraft? line) => ItemId.TryParse(line?.Item, out var id) && policy.Graph.PlaceOf(id) < 0 && old?.LinesOf(id).Count > 0;
        draft = draft.Lines is { } lines && old is not null ? draft with { Lines = [.. lines.Where(l => !IsGone(l))] } : draft;
        var read = draft.Read(known, policy.Graph, policy.Settings.TimeZone);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        if (version is { } seen && seen != (old?.Version ?? 0))
        {
            return Problem.Of(ProblemKind.Stale, "stale", read.Value.Key);
        }

        if (old is null && book.All.Count >= Most)
        {
            return Problem.Of(ProblemKind.Conflict, "prices-many", Most);
        }

        var fresh = read.Value with { Version = (old?.Version ?? 0) + 1 };
        if (draft.Lines is null && old is not null)
        {
            if (fresh.Currency != old.Currency && old.Lines.Count > 0)
            {
                return Problem.In("currency", "price-currency-lines", old.Currency);
            }

            fresh = fresh with { Lines = [.. old.Lines.Where(l => policy.Graph.PlaceOf(l.Item) >= 0)] };
        }

        return old is not null && fresh == old with { Version = fresh.Version } ? new Edit<PriceList>(new Edit("price.set", old.Key, []), old)
            : new Edit<PriceList>(
                new Edit(old is null ? "price.add" : "price.set", fresh.Key, [new PriceListPut(fresh)], old is null ? null : Describe(old), Describe(fresh))
                {
                    // Its lines can be many thousands: the trail says how many, the site's file has them.
                    Detail = Detail.Of(old is null ? null : PriceDraft.Head(old), PriceDraft.Head(fresh)),
                },
                fresh);
    }

    /// <summary>Removes a list.</summary>
    public static Outcome<Edit<PriceList>> Remove(Policy policy, string key) => PriceBook.Of(policy).Find(key) is not { } old ? Unknown(policy, key)
        : new Edit<PriceList>(
            new Edit("price.remove", key, [new PriceListDropped(key)], Describe(old)) { Detail = Detail.Of(PriceDraft.Head(old), null) }, old);

    /// <summary>That there is no list of that name, and which is near.</summary>
    public static Problem Unknown(Policy policy, string key) => Nearest.To(key, PriceBook.Of(policy).All.Select(l => l.Key)) is { } near
        ? Problem.Of(ProblemKind.NotFound, "price-unknown-near", key, near) : Problem.Of(ProblemKind.NotFound, "price-unknown", key);

    private static string Describe(PriceList list) => $"{list.Title}, {list.Audience}, {list.Currency}: {list.Lines.Count}";
}
