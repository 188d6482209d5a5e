using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;

namespace WarySentinel.Core.Prices;

/// <summary>Who wants to use a coupon.</summary>
/// <param name="Visitor">Their facts.</param>
/// <param name="Person">What stands for them: a member's id, or an address; null for whoever said neither.</param>
public sealed record CouponUser(Visitor Visitor, string? Person)
{
    /// <summary>All that stands for them: what a member used before they had an account, they used.</summary>
    public IReadOnlyList<string> Names { get; init; } = Person is null ? [] : [Person];
}

/// <summary>Adds, changes and removes coupons, and uses them.</summary>
public static class CouponCommands
{
    /// <summary>Most coupons of a site.</summary>
    public const int Most = 500;

    private const int LongestOrder = 200;

    /// <summary>Stores a coupon; one of that key is replaced.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="draft">What is wanted.</param>
    /// <param name="version">The version that was edited; null to write over whatever is there.</param>
    /// <param name="known">The keys that audiences may name.</param>
    public static Outcome<Edit<Coupon>> Put(Policy policy, CouponDraft draft, int? version, IKnownKeys known)
    {
        var (book, read) = (CouponBook.Of(policy), draft.Read(known, policy.Graph, policy.Settings.TimeZone));
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var old = book.Find(read.Value.Key);
        if (version is { } seen && seen != (old?.Version ?? 0))
        {
            return Problem.Of(ProblemKind.Stale, "stale", read.Value.Key);
        }

        if (book.Typed(read.Value.Code) is { } other && other.Key != read.Value.Key)
        {
            return Problem.In("code", "coupon-code-taken", other.Code, other.Key);
        }

        if (old is null && book.All.Count >= Most)
        {
            return Problem.Of(ProblemKind.Conflict, "coupons-many", Most);
        }

        var fresh = read.Value with { Version = (old?.Version ?? 0) + 1 };
        return old is not null && fresh == old with { Version = fresh.Version } ? new Edit<Coupon>(new Edit("coupon.set", old.Key, []), old)
            : new Edit<Coupon>(
                new Edit(old is null ? "coupon.add" : "coupon.set", fresh.Key, [new CouponPut(fresh)], old is null ? null : Describe(old), Describe(fresh))
                {
                    Detail = Detail.Of(old is null ? null : CouponDraft.Of(old), CouponDraft.Of(fresh)),
                },
                fresh);
    }

    /// <summary>Removes a coupon.</summary>
    public static Outcome<Edit<Coupon>> Remove(Policy policy, string key) => CouponBook.Of(policy).Find(key) is not { } old ? Unknown(policy, key)
        : new Edit<Coupon>(new Edit("coupon.remove", key, [new CouponDropped(key)], Describe(old)) { Detail = Detail.Of(CouponDraft.Of(old), null) }, old);

    /// <summary>Uses a coupon for an order; a use that the order has already is given back as it is.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="coupon">The coupon.</param>
    /// <param name="user">Who uses it.</param>
    /// <param name="order">The shop's name for the order.</param>
    /// <param name="uses">What is known of its uses.</param>
    /// <param name="discount">What it takes off, where the shop said.</param>
    /// <param name="now">The time.</param>
    public static Outcome<Edit<CouponUse>> Use(
        Policy policy, Coupon coupon, CouponUser user, string? order, CouponUses uses, Money? discount, DateTimeOffset now)
    {
        if (PlainText.OrNull(order)?.Trim() is not { Length: <= LongestOrder } named || !PlainText.IsClean(named))
        {
            return Problem.In("order", "coupon-order", LongestOrder);
        }

        if (uses.OfOrder is { } there)
        {
            return user.Names.Contains(there.Person) ? new Edit<CouponUse>(new Edit("coupon.use", coupon.Key, []), there)
                : Problem.Of(ProblemKind.Conflict, "coupon-order-other", named);
        }

        if (WhyNot(policy, coupon, user, uses, now) is { } why)
        {
            return why;
        }

        var use = new CouponUse(Guid.CreateVersion7(now), coupon.Key, uses.LastSerial + 1, user.Person!, named, now) { Discount = discount };
        return new Edit<CouponUse>(new Edit("coupon.use", coupon.Key, [new CouponUsed(use)], null, $"{named}: {discount?.ToString() ?? "-"}"), use);
    }

    /// <summary>Counts a coupon for an order that is paid: it was used, whoever may still use it.</summary>
    /// <param name="coupon">The coupon.</param>
    /// <param name="person">What stands for whoever paid.</param>
    /// <param name="order">The order's name, in the words of whoever tells of it.</param>
    /// <param name="uses">What is known of its uses.</param>
    /// <param name="at">When it was paid.</param>
    public static Edit Count(Coupon coupon, string person, string order, CouponUses uses, DateTimeOffset at) => new(
        "coupon.use", coupon.Key, [new CouponUsed(new CouponUse(Guid.CreateVersion7(), coupon.Key, uses.LastSerial + 1, person, order, at))], null, order);

    /// <summary>Gives a use back.</summary>
    public static Edit<CouponUse> Return(CouponUse use) =>
        new(new Edit("coupon.return", use.Coupon, [new CouponUseReturned(use.Id)], $"{use.Order}: {use.Discount?.ToString() ?? "-"}"), use);

    /// <summary>Why a person may not use a coupon now; null where they may.</summary>
    public static Problem? WhyNot(Policy policy, Coupon coupon, CouponUser user, CouponUses uses, DateTimeOffset now) =>
        !coupon.IsInForce(now) ? Refused(now < coupon.From ? "coupon-early" : "coupon-over", coupon.Code)
        : !coupon.Audience.Admits(user.Visitor, "", now)
            ? Refused(user.Visitor.IsSignedIn ? "coupon-not-for" : "coupon-not-for-guest", coupon.Code)
        : coupon.PerPerson is not null && user.Person is null ? Refused("coupon-who", coupon.Code)
        : uses.ByPerson >= coupon.PerPerson ? Refused("coupon-used", coupon.Code)
        : uses.All >= coupon.Most ? Refused("coupon-used-up", coupon.Code) : null;

    /// <summary>That there is no coupon of that name, and which is near.</summary>
    public static Problem Unknown(Policy policy, string key) => Nearest.To(key, CouponBook.Of(policy).All.Select(c => c.Key)) is { } near
        ? Problem.Of(ProblemKind.NotFound, "coupon-unknown-near", key, near) : Problem.Of(ProblemKind.NotFound, "coupon-unknown", key);

    private static Problem Refused(string code, params object?[] values) => Problem.Of(ProblemKind.Conflict, code, values);

    private static string Describe(Coupon coupon) => $"{coupon.Code}, {coupon.Audience}: {(coupon.Off is { } off ? $"{off} %" : coupon.Amount.ToString())}";
}
