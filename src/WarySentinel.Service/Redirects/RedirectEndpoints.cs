using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Core.Redirects;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Redirects;

/// <summary>A redirect.</summary>
public sealed record RedirectView(string Key, string On, string Audience, string To, int Position, int Version)
{
    /// <summary>The view of a redirect.</summary>
    public static RedirectView Of(Redirect redirect) => new(
        redirect.Key, RedirectDraft.Occasions[(int)redirect.On], redirect.Audience.ToString()!, redirect.To, redirect.Position, redirect.Version);
}

/// <summary>Where people land.</summary>
public static class RedirectEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapRedirects(this RouteGroupBuilder api)
    {
        var redirects = api.MapGroup("/redirects").WithTags("Redirects");
        redirects.MapGet("/", (PolicyHolder policies) =>
            TypedResults.Ok(new PageOf<RedirectView>([.. policies.Current.Parts.Of<RedirectBook>().All.Select(RedirectView.Of)], null))).Requires("read");
        redirects.MapPut("/{key}", Put).Requires("write");
        redirects.MapDelete("/{key}", Remove).Requires("write");
        return api;
    }

    private static async Task<Results<Ok<RedirectView>, ProblemHttpResult>> Put(
        string key, RedirectDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(
            async policy => RedirectCommands.Put(policy, draft with
            { Key = key }, await policies.KnownKeysAsync(policy, [draft.Audience ?? ""], stop)), Caller.Of(http).Name, stop))
            .Match<Results<Ok<RedirectView>, ProblemHttpResult>>(put => TypedResults.Ok(RedirectView.Of(put)), problem => problem.ToHttp());

    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => RedirectCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());
}
