using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Redirects;
using WarySentinel.Core.Redirects;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using RedirectDraft = WarySentinel.Core.Redirects.RedirectDraft;
using Wire = WarySentinel.Contract.Redirects;

namespace WarySentinel.Service.Redirects;

/// <summary>Where people land.</summary>
public static class RedirectEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapRedirects(this RouteGroupBuilder api)
    {
        var redirects = api.MapGroup("/redirects").WithTags("Redirects");
        redirects.MapGet("/", (PolicyHolder policies) =>
            TypedResults.Ok(new PageOf<RedirectView>([.. policies.Current.Parts.Of<RedirectBook>().All.Select(ToWire)], null))).Requires("read");
        redirects.MapPut("/{key}", Put).Requires("write");
        redirects.MapDelete("/{key}", Remove).Requires("write");
        return api;
    }

    private static async Task<Results<Ok<RedirectView>, ProblemHttpResult>> Put(
        string key, Wire.RedirectDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(
            async policy => RedirectCommands.Put(
                policy, new RedirectDraft(key, draft.On, draft.Audience, draft.To, draft.Position),
                await policies.KnownKeysAsync(policy, [draft.Audience ?? ""], stop)),
            Caller.Of(http).Name, stop))
            .Match<Results<Ok<RedirectView>, ProblemHttpResult>>(put => TypedResults.Ok(ToWire(put)), problem => problem.ToHttp());

    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => RedirectCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static RedirectView ToWire(Redirect redirect) => new(
        redirect.Key, RedirectDraft.Occasions[(int)redirect.On], redirect.Audience.ToString()!, redirect.To, redirect.Position, redirect.Version);
}
