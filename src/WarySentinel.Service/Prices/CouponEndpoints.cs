using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Prices;
using WarySentinel.Core;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Prices;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Prices;

/// <summary>Coupons, and their use.</summary>
internal static class CouponEndpoints
{
    private const int UsualPage = 50;
    private const int MostPage = 500;

    public static RouteGroupBuilder MapCoupons(this RouteGroupBuilder api)
    {
        var coupons = api.MapGroup("/coupons").WithTags("Prices");
        coupons.MapGet("/", ListAsync).Requires("read");
        coupons.MapGet("/{key}", ShowAsync).Requires("read");
        coupons.MapPut("/{key}", PutAsync).Requires("write");
        coupons.MapDelete("/{key}", RemoveAsync).Requires("write");
        coupons.MapGet("/{key}/uses", UsesAsync).Requires("people");
        coupons.MapDelete("/{key}/uses/{order}", ReturnAsync).Requires("people");
        api.MapPost("/coupon-uses", UseAsync).WithTags("Prices").Requires("people");
        return api;
    }

    private static async Task<Ok<PageOf<CouponView>>> ListAsync(PolicyHolder policies, Store store, CancellationToken stop)
    {
        var used = await store.CouponCountsAsync(stop);
        return TypedResults.Ok(new PageOf<CouponView>(
            [.. CouponBook.Of(policies.Current).All.Select(c => c.ToWire(used.GetValueOrDefault(c.Key)))], null));
    }

    private static async Task<Results<Ok<CouponView>, ProblemHttpResult>> ShowAsync(
        string key, HttpResponse response, PolicyHolder policies, Store store, CancellationToken stop)
    {
        if (CouponBook.Of(policies.Current).Find(key) is not { } coupon)
        {
            return CouponCommands.Unknown(policies.Current, key).ToHttp();
        }

        response.Headers.ETag = Paging.TagOf(coupon.Version);
        return TypedResults.Ok(coupon.ToWire((await store.CouponUsesAsync(key, [], null, stop)).All));
    }

    private static async Task<Results<Ok<CouponView>, ProblemHttpResult>> PutAsync(
        string key, Contract.Prices.CouponDraft draft, HttpContext http, PolicyHolder policies, Store store, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        var put = version.Problem is { } missing ? missing : await policies.ChangeAsync(
            async policy => CouponCommands.Put(
                policy, draft.ToCore(key), version.Value, await policies.KnownKeysAsync(policy, [draft.Audience ?? ""], stop)), Caller.Of(http).Name, stop);
        if (put.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(put.Value.Version);
        return TypedResults.Ok(put.Value.ToWire((await store.CouponUsesAsync(key, [], null, stop)).All));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => CouponCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static async Task<Results<Ok<PageOf<CouponUseView>>, ProblemHttpResult>> UsesAsync(
        string key, string? after, int? limit, Store store, CancellationToken stop)
    {
        int? before = null;
        if (after is not null)
        {
            if (!int.TryParse(after, System.Globalization.NumberStyles.None, System.Globalization.CultureInfo.InvariantCulture, out var serial))
            {
                return Problem.In("after", "cursor").ToHttp();
            }

            before = serial;
        }

        var most = Math.Clamp(limit ?? UsualPage, 1, MostPage);
        var uses = await store.CouponUseListAsync(key, before, most + 1, stop);
        var members = await store.MembersAsync([.. uses.Select(u => Guid.TryParse(u.Person, out var id) ? id : (Guid?)null).OfType<Guid>()], stop);
        return TypedResults.Ok(new PageOf<CouponUseView>(
            [.. uses.Take(most).Select(u => u.ToWire(Guid.TryParse(u.Person, out var id) ? members.GetValueOrDefault(id)?.Email : null))],
            uses.Count > most ? uses[most - 1].Serial.ToString(System.Globalization.CultureInfo.InvariantCulture) : null));
    }

    private static async Task<Results<Ok<CouponUseView>, ProblemHttpResult>> UseAsync(
        CouponUseDraft draft, HttpContext http, CouponDesk desk, CancellationToken stop)
    {
        Money? discount = null;
        if (PlainText.OrNull(draft.Amount) is { } amount)
        {
            if (!Money.TryParse(amount, draft.Currency ?? "", out var read))
            {
                return Problem.In("amount", "price-amount", amount, draft.Currency).ToHttp();
            }

            discount = read;
        }

        return (await desk.UseAsync(draft.Code, draft.Visitor, draft.Person, draft.Order, discount, Caller.Of(http).Name, stop))
            .Match<Results<Ok<CouponUseView>, ProblemHttpResult>>(use => TypedResults.Ok(use.ToWire()), problem => problem.ToHttp());
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> ReturnAsync(
        string key, string order, HttpContext http, CouponDesk desk, CancellationToken stop) =>
        (await desk.ReturnAsync(key, order, Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());
}
