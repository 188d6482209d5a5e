using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Passwords;

namespace WarySentinel.Core.Orders;

/// <summary>A pass whose password is to be told to whoever is given it.</summary>
/// <param name="Pass">The pass.</param>
/// <param name="Fresh">What was drawn for it.</param>
public sealed record GivenPass(Pass Pass, FreshPass Fresh);

/// <summary>
/// The passes that an order gives: one of each kind, from when it is paid until what it paid for ends. They need no account, and end with the order.
/// </summary>
public static class OrderPasses
{
    /// <summary>Whether a line gives something that only an account holds.</summary>
    public static bool NeedsAccount(OrderPromise promise) => promise.Way is not (FulfilmentWay.Link or FulfilmentWay.SharedPassword)
        && promise.Facts.Any(f => f.Fact.Kind != FactKind.Pass);

    /// <summary>Whether a line is delivered by nothing but a letter that has the address of a folder.</summary>
    public static bool IsByLink(OrderPromise promise) => promise.Way == FulfilmentWay.Link && promise.Facts.Count > 0;

    /// <summary>Whether all there is to a line is told in a letter: the address of a folder, or a shared password.</summary>
    public static bool IsByLetter(OrderPromise promise) => IsByLink(promise) || promise.Way == FulfilmentWay.SharedPassword;

    /// <summary>The kinds of passes that lines give.</summary>
    public static IReadOnlyList<string> KindsOf(IEnumerable<OrderPromise> promises) =>
        [.. promises.SelectMany(p => p.Facts).Where(f => f.Fact.Kind == FactKind.Pass).Select(f => f.Fact.Key).Distinct()];

    /// <summary>What of an order's passes is not as it has to be: the changes that make it so, and the passes whose passwords are to be told.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="told">The order, as it stands now.</param>
    /// <param name="before">The order as it was taken up before; null where it was not.</param>
    /// <param name="there">The passes that it gave before.</param>
    /// <param name="fresh">What was drawn, one for each kind.</param>
    /// <param name="gives">Whether it may give any by now.</param>
    /// <param name="now">Now.</param>
    public static (IReadOnlyList<GivenPass> Given, IReadOnlyList<Change> Changes) Settle(
        Policy policy, ToldOrder told, ToldOrder? before, IReadOnlyList<Pass> there, IReadOnlyList<FreshPass> fresh, bool gives, DateTimeOffset now)
    {
        var (given, changes, drawn) = (new List<GivenPass>(), new List<Change>(), fresh.GetEnumerator());
        var (spans, spansBefore) = (SpansOf(policy, told), before is null ? [] : SpansOf(policy, before));
        foreach (var kind in KindsOf(told.Order.Promises).Union(there.Select(p => p.Kind)))
        {
            if (!spans.TryGetValue(kind, out var paid))
            {
                // What it gives no more, as something else was bought in its place, was never of use.
                changes.AddRange(there.Where(p => p.Kind == kind && !(p.Until <= p.CreatedAt)).Select(
                    p => new PassPut(p with { Until = p.CreatedAt, Version = p.Version + 1 }, p.Version)));
                continue;
            }

            if (there.FirstOrDefault(p => p.Kind == kind) is not { } old)
            {
                if (gives && !(paid.Until <= now) && drawn.MoveNext())
                {
                    var made = Made(told, kind, drawn.Current, now) with { From = paid.From, Until = paid.Until };
                    given.Add(new GivenPass(made, drawn.Current));
                    changes.Add(new PassPut(made, 0));
                }

                continue;
            }

            var next = old with { From = paid.From, Until = paid.Until };
            if (spansBefore.TryGetValue(kind, out var paidBefore))
            {
                next = next with { From = paid.From == paidBefore.From ? old.From : paid.From, Until = UntilOf(old, paid.Until, paidBefore.Until) };
            }

            if (gives && old.WithdrawnAt is null && old.Email != told.Order.Email && drawn.MoveNext())
            {
                // It was told to an address that was mended since: whoever reads that one knows a password that is none any more.
                next = next with { Email = told.Order.Email, Digest = drawn.Current.Digest, OldDigest = null, OldUntil = null };
                given.Add(new GivenPass(next, drawn.Current));
                changes.Add(new PassSessionsCut(old.Id, now));
            }

            changes.AddRange(next == old ? [] : [new PassPut(next with { Version = old.Version + 1 }, old.Version)]);
        }

        return (given, changes);
    }

    /// <summary>From when until when an order has paid for each kind of pass.</summary>
    private static Dictionary<string, (DateTimeOffset? From, DateTimeOffset? Until)> SpansOf(Policy policy, ToldOrder told) =>
        Reckoning.Of(new SiteDates(policy.Settings.TimeZone), [told], [], f => OrderPromises.GraceOf(policy, [told], f))
            .Where(g => g.Kind == FactKind.Pass).GroupBy(g => g.Key).ToDictionary(
                g => g.Key, g => (g.Min(one => one.From), g.Any(one => one.Until is null) ? null : g.Max(one => one.Until)));

    /// <summary>
    /// When a pass ends. What its order pays for moves the end; what staff have set by hand stays where that is not moved, and what they gave beyond it is not
    /// taken by a payment, only where the order comes to end earlier.
    /// </summary>
    private static DateTimeOffset? UntilOf(Pass old, DateTimeOffset? paid, DateTimeOffset? paidBefore) =>
        paid == paidBefore ? old.Until
        : old.Until == paidBefore || (paid is { } end && !(paidBefore <= end)) ? paid
        : old.Until is null || paid is null ? null
        : old.Until > paid ? old.Until : paid;

    private static Pass Made(ToldOrder told, string kind, FreshPass fresh, DateTimeOffset now)
    {
        var name = PlainText.OrNull(told.Story.Gift is null ? told.Story.Buyer?.Name : told.Story.Gift.Name) ?? told.Order.Email;
        return new Pass
        {
            Id = fresh.Id, Kind = kind, Name = PassCommands.NameOf(kind, fresh.Ending), Holder = name.Length > Pass.LongestHolder ? name[..Pass.LongestHolder]
                : name, Email = told.Order.Email, Digest = fresh.Digest, CreatedAt = now, Order = told.Order.Subject,
        };
    }
}
