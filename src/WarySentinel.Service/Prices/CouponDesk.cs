using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Core.People;
using WarySentinel.Core.Prices;
using WarySentinel.Service.Access;
using WarySentinel.Service.Orders;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Prices;

/// <summary>Who may use which coupon, and uses it.</summary>
public sealed class CouponDesk(Store store, PolicyHolder policies, PeopleLane people, Viewpoints viewpoints, TimeProvider time)
    : IOffers, ICoupons
{
    private const string Guest = "guest";

    /// <summary>Who pays: a visitor by name, and what stands for the person.</summary>
    /// <param name="visitor">Who pays, as questions name visitors; a guest where nobody is named.</param>
    /// <param name="address">The buyer's e-mail address; where it is a member's, they are it.</param>
    /// <param name="policy">The policy.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<Outcome<(SeenAs Seen, CouponUser User)>> UserAsync(string? visitor, string? address, Policy policy, CancellationToken stop)
    {
        string? person = null;
        if (PlainText.OrNull(address) is { } typed)
        {
            if (EmailAddress.Normalise(typed) is not { } email)
            {
                return Problem.In("person", "email-form", typed);
            }

            person = email;
        }

        var name = string.IsNullOrWhiteSpace(visitor) ? person is not null && await store.IsMemberAsync(person, stop) ? person : Guest : visitor.Trim();
        var found = await viewpoints.FindAsync(name, policy, true, stop);
        if (found.Problem is { } unknown)
        {
            return unknown;
        }

        var seen = found.Value.Visitor;
        // Whoever was invited counts as a guest; what they used is theirs all the same.
        var member = (seen.Email ?? person) is { } named ? await store.MemberByNameAsync(named, stop) : null;
        return (found.Value, member is null ? new CouponUser(seen, person) : UserOf(seen, member.Id, member.Email));
    }

    /// <summary>The coupon of a typed code, or why they may not use it.</summary>
    public async Task<(Coupon? Coupon, Problem? Fault)> TypedAsync(string code, CouponUser user, Policy policy, DateTimeOffset now, CancellationToken stop)
    {
        if (CouponBook.Of(policy).Typed(code) is not { } coupon)
        {
            return (null, Problem.Of(ProblemKind.NotFound, "coupon-none", code));
        }

        var uses = await store.CouponUsesAsync(coupon.Key, user.Names, null, stop);
        var fault = CouponCommands.WhyNot(policy, coupon, user, uses, now);
        return (fault is null ? coupon : null, fault);
    }

    /// <summary>Uses a coupon for an order: once, however often it is said.</summary>
    public async Task<Outcome<CouponUse>> UseAsync(
        string? code, string? visitor, string? address, string? order, Money? discount, string by, CancellationToken stop)
    {
        var policy = policies.Current;
        if (CouponBook.Of(policy).Typed(code) is not { } coupon)
        {
            return Problem.In("code", "coupon-none", code);
        }

        var found = await UserAsync(visitor, address, policy, stop);
        return found.Problem is { } unknown ? unknown : await people.ChangeAsync(
            async () => CouponCommands.Use(
                policy, coupon, found.Value.User, order, await store.CouponUsesAsync(coupon.Key, found.Value.User.Names, order?.Trim(), stop), discount,
                time.GetUtcNow()),
            by);
    }

    /// <summary>Gives the use of an order back.</summary>
    public async Task<Outcome<CouponUse>> ReturnAsync(string key, string order, string by, CancellationToken stop) => await people.ChangeAsync(
        async () => (await store.CouponUsesAsync(key, [], order, stop)).OfOrder is { } use
            ? CouponCommands.Return(use) : (Outcome<Edit<CouponUse>>)Problem.Of(ProblemKind.NotFound, "coupon-use-none", order),
        by);

    /// <inheritdoc/>
    public async Task<IReadOnlyList<OfferLine>> ForAsync(Policy policy, Visitor visitor, Guid member, DateTimeOffset now, CancellationToken stop)
    {
        var offers = new List<OfferLine>();
        foreach (var coupon in CouponBook.Of(policy).All.Where(c => !IsForAll(c) && c.IsInForce(now) && c.Audience.Admits(visitor, "", now)))
        {
            var user = UserOf(visitor, member, visitor.Email);
            var uses = await store.CouponUsesAsync(coupon.Key, user.Names, null, stop);
            if (CouponCommands.WhyNot(policy, coupon, user, uses, now) is null)
            {
                var language = SiteCulture.Of(Reader.Book.Language);
                var worth = coupon.Off is { } off ? off.ToString("0.##", language) + " %" : coupon.Amount!.Value.Told(language);
                offers.Add(new OfferLine(coupon.Title, coupon.Code, worth, coupon.Until));
            }
        }

        return offers;
    }

    /// <inheritdoc/>
    public async Task<Edit?> SettleAsync(Policy policy, Order order, OrderStory story, Member? member, CancellationToken stop)
    {
        if (CouponBook.Of(policy).Typed(story.Coupon) is not { } coupon || OrderCommands.AddressOf(story.Buyer?.Email) is not { } buyer)
        {
            return null;
        }

        var payer = member?.Email == buyer ? member : await store.MemberByNameAsync(buyer, stop);
        var uses = await store.CouponUsesAsync(coupon.Key, [], order.Key, stop);
        var isUsed = story.Payments.Count > 0 && story.Standing is not (OrderStanding.Refunded or OrderStanding.ChargedBack);
        return isUsed ? uses.OfOrder is not null ? null : CouponCommands.Count(coupon, payer?.Id.ToString() ?? buyer, order.Key, uses, story.Payments[0].At)
            : uses.OfOrder is { } there ? CouponCommands.Return(there).ToStore : null;
    }

    private static CouponUser UserOf(Visitor visitor, Guid member, string? address) =>
        new(visitor, member.ToString()) { Names = address is null ? [member.ToString()] : [member.ToString(), address] };

    private static bool IsForAll(Coupon coupon) => coupon.Audience is Audience.Plain { Atom: PlainAtom.Anyone };
}
