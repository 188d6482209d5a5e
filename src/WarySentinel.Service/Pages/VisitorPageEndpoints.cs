using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Pages;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Pages;
using WarySentinel.Service.Access;
using WarySentinel.Service.Redirects;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>Where the pages of the service stand, and whether they do.</summary>
public static class VisitorPageEndpoints
{
    private const string Name = "/{key}";

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapVisitorPages(this RouteGroupBuilder api)
    {
        var pages = api.MapGroup("/visitor-pages").WithTags("Pages");
        pages.MapGet("/", List).Requires("read");
        pages.MapGet(Name, Show).Requires("read");
        pages.MapPut(Name, SetAsync).Requires("write");
        return api;
    }

    private static Ok<PageOf<VisitorPageView>> List(PolicyHolder policies, ServiceOptions options, SamplePages samples) => TypedResults.Ok(
        new PageOf<VisitorPageView>([.. VisitorPages.All.Select(p => ToWire(p, policies.Current, options, samples))], null));

    private static Results<Ok<VisitorPageView>, ProblemHttpResult> Show(
        string key, HttpContext http, PolicyHolder policies, ServiceOptions options, SamplePages samples)
    {
        if (VisitorPages.Find(key) is not { } page)
        {
            return Problem.Of(ProblemKind.NotFound, "page-unknown", key, Nearest.To(key, VisitorPages.All.Select(p => p.Key)) ?? "sign-in").ToHttp();
        }

        var view = ToWire(page, policies.Current, options, samples);
        http.Response.Headers.ETag = Paging.TagOf(view.Version);
        return TypedResults.Ok(view);
    }

    private static async Task<Results<Ok<VisitorPageView>, ProblemHttpResult>> SetAsync(
        string key, VisitorPageDraft draft, HttpContext http, PolicyHolder policies, DeadAddresses site, ServiceOptions options, SamplePages samples,
        CancellationToken stop)
    {
        if (VisitorPages.Find(key) is not { } page)
        {
            return Problem.Of(ProblemKind.NotFound, "page-unknown", key, Nearest.To(key, VisitorPages.All.Select(p => p.Key)) ?? "sign-in").ToHttp();
        }

        var (version, wanted) = (Paging.VersionIn(http.Request), new PageDraft(key, draft.Address, draft.Off, draft.Menu));
        if (version.Problem is { } missing)
        {
            return missing.ToHttp();
        }

        // What is refused anyway asks the site nothing.
        if (PageCommands.Set(policies.Current, wanted, options.Reserved, version.Value).Problem is null
            && draft.Address?.Trim() is { Length: > 0 } address && address != PageBook.Of(policies.Current).Find(key).Address
            && await site.AnswersAsync(address, stop))
        {
            return Problem.In("address", "page-address-site", address, await FreeAsync(page, address, policies.Current, site, options, stop)).ToHttp();
        }

        var set = await policies.ChangeAsync(
            policy => PageCommands.Set(policy, wanted, options.Reserved, version.Value), Caller.Of(http).Name, stop);
        if (set.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(set.Value.Version);
        return TypedResults.Ok(ToWire(page, policies.Current, options, samples));
    }

    /// <summary>An address near the wanted one at which neither we nor the site have anything.</summary>
    private static async Task<string> FreeAsync(
        VisitorPage page, string wanted, Policy policy, DeadAddresses site, ServiceOptions options, CancellationToken stop)
    {
        string[] near = ["/" + page.Key, $"{wanted.TrimEnd('/')}-{page.Key}", $"/{page.Key}-here", $"/members-{page.Key}"];
        foreach (var address in near.Where(a => PageCommands.Set(policy, new PageDraft(page.Key, a), options.Reserved).Problem is null))
        {
            if (!await site.AnswersAsync(address, stop))
            {
                return address;
            }
        }

        return options.AccountPrefix + page.Path;
    }

    private static VisitorPageView ToWire(VisitorPage page, Policy policy, ServiceOptions options, SamplePages samples)
    {
        var book = PageBook.Of(policy);
        var (set, stands) = (book.Find(page.Key), book.AddressOf(options.AccountPrefix, page.Path));
        return new VisitorPageView(
            page.Key, Wording.Of("page." + page.Key).ToReader(), page.Use.ToString().ToLowerInvariant(), page.HasAddress ? stands : null,
            set.Address, set.IsOff, page.CanBeOff, page.MenuText is null ? null : set.InMenu ?? page.IsInMenu, page.Words,
            samples.AddressOf(page) is { } at ? options.SiteUrl.TrimEnd('/') + at : null, set.Version, page.Done);
    }
}
