using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Prices;
using WarySentinel.Core.Prices;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Prices;

/// <summary>Where the shop takes things into a cart.</summary>
internal static class CartEndpoints
{
    public static RouteGroupBuilder MapCarts(this RouteGroupBuilder api)
    {
        var carts = api.MapGroup("/carts").WithTags("Prices");
        carts.MapGet("/", (PolicyHolder policies) => TypedResults.Ok(new PageOf<CartView>(
            [.. CartBook.Of(policies.Current).All.Select(c => c.ToWire())], null))).Requires("read");
        carts.MapGet("/{key}", Show).Requires("read");
        carts.MapPut("/{key}", PutAsync).Requires("write");
        carts.MapDelete("/{key}", RemoveAsync).Requires("write");
        return api;
    }

    private static Results<Ok<CartView>, ProblemHttpResult> Show(string key, HttpResponse response, PolicyHolder policies)
    {
        if (CartBook.Of(policies.Current).Find(key) is not { } cart)
        {
            return CartCommands.Unknown(policies.Current, key).ToHttp();
        }

        response.Headers.ETag = Paging.TagOf(cart.Version);
        return TypedResults.Ok(cart.ToWire());
    }

    private static async Task<Results<Ok<CartView>, ProblemHttpResult>> PutAsync(
        string key, Contract.Prices.CartDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        var put = version.Problem is { } missing ? missing
            : await policies.ChangeAsync(policy => CartCommands.Put(policy, draft.ToCore(key), version.Value), Caller.Of(http).Name, stop);
        if (put.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(put.Value.Version);
        return TypedResults.Ok(put.Value.ToWire());
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => CartCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());
}
