using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Redirects;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Redirects;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
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
        redirects.MapGet("/", (PolicyHolder policies) => TypedResults.Ok(PageOf(RedirectBook.Of(policies.Current).All))).Requires("read");
        redirects.MapPut("/{key}", Put).Requires("write");
        redirects.MapDelete("/{key}", Remove).Requires("write");
        redirects.MapPost("/order", Order).Requires("write");
        redirects.MapPost("/try", Try).Requires("read");
        return api;
    }

    private static async Task<Results<Ok<RedirectView>, ProblemHttpResult>> Put(
        string key, Wire.RedirectDraft draft, HttpContext http, PolicyHolder policies, DeadAddresses dead, ServiceOptions options, TimeProvider time,
        CancellationToken stop)
    {
        if (await dead.FaultOfAsync(draft.To, stop) is { } gone)
        {
            return gone.ToHttp();
        }

        var put = await policies.ChangeAsync(
            async policy => RedirectCommands.Put(
                policy, new RedirectDraft(key, draft.On, draft.Audience, draft.To, draft.Position, draft.Insists),
                new RedirectSurroundings(await policies.KnownKeysAsync(policy, [draft.Audience ?? ""], stop), options.Reserved, time.GetUtcNow())),
            Caller.Of(http).Name, stop);
        return put.Match<Results<Ok<RedirectView>, ProblemHttpResult>>(redirect => TypedResults.Ok(ToWire(redirect)), problem => problem.ToHttp());
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => RedirectCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static async Task<Results<Ok<PageOf<RedirectView>>, ProblemHttpResult>> Order(
        OrderedKeys draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => RedirectCommands.Order(policy, draft.Keys), Caller.Of(http).Name, stop))
            .Match<Results<Ok<PageOf<RedirectView>>, ProblemHttpResult>>(all => TypedResults.Ok(PageOf(all)), problem => problem.ToHttp());

    /// <summary>Says where a viewpoint or a member would land, and why; nothing is changed by it.</summary>
    private static async Task<Results<Ok<LandingView>, ProblemHttpResult>> Try(
        LandingQuestion asked, PolicyHolder policies, Viewpoints viewpoints, TimeProvider time, CancellationToken stop)
    {
        var policy = policies.Current;
        if (!RedirectDraft.TryOccasion(asked.On, out var on))
        {
            return Problem.In("on", "not-one-of", asked.On, string.Join(", ", RedirectDraft.Occasions)).ToHttp();
        }

        foreach (var (field, address) in new[] { ("wanted", asked.Wanted), ("form", asked.Form) })
        {
            if (!string.IsNullOrEmpty(address) && !ReturnTo.IsOnThisSite(address))
            {
                return Problem.In(field, "site-address", address).ToHttp();
            }
        }

        var who = await viewpoints.FindAsync(asked.As ?? "guest", policy, true, stop);
        if (who.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        // Who signs out lands as a guest.
        var lander = new Lander(on, on == RedirectOn.SignOut ? Visitor.Guest : who.Value.Visitor, NotEmpty(asked.Wanted), NotEmpty(asked.Form))
        { Whose = who.Value.Visitor };
        return TypedResults.Ok(ToWire(Destination.Of(policy, lander, time.GetUtcNow()), who.Value.Title));
    }

    private static string? NotEmpty(string? text) => string.IsNullOrEmpty(text) ? null : text;

    private static LandingView ToWire(Destination found, string who) => new(
        who, found.To, NameOf(found.Why), found.Rule, Words.Of("landing." + NameOf(found.Why), found.Rule),
        [.. found.Ways.Select(w => new LandingWayView(NameOf(w.Why), w.Rule, w.To, NameOf(w.Step)))]);

    private static string NameOf(DestinationWhy why) => why.ToString().ToLowerInvariant();

    private static string NameOf(DestinationStep step) => step == DestinationStep.NotForThem ? "not-for-them" : step.ToString().ToLowerInvariant();

    private static PageOf<RedirectView> PageOf(IEnumerable<Redirect> all) => new([.. all.Select(ToWire)], null);

    private static RedirectView ToWire(Redirect redirect) => new(
        redirect.Key, RedirectDraft.Occasions[(int)redirect.On], redirect.Audience.ToString()!, redirect.To, redirect.Position, redirect.Insists,
        redirect.Version);
}
