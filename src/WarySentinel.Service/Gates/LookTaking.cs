using System.Text;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.Gates;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Access;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Gates;

/// <summary>Reads the look of the site's own pages, for the service's to be dressed like them.</summary>
public sealed class LookTaking(PolicyHolder policies, Outbound outbound, IHttpClientFactory clients, ServiceOptions options)
{
    /// <summary>What a page looks like, and a look made of it. Nothing is stored.</summary>
    public static async Task<Results<Ok<FoundLookView>, ProblemHttpResult>> TakeAsync(LookTakeDraft draft, LookTaking looks, CancellationToken stop)
    {
        var path = string.IsNullOrWhiteSpace(draft.Page) ? "/" : draft.Page.Trim();
        return (await looks.FindAsync(path, stop)).Match<Results<Ok<FoundLookView>, ProblemHttpResult>>(
            read => TypedResults.Ok(new FoundLookView(
                path, [.. read.Found.Colours.Select(c => new FoundColourView(c.Where, c.Colour))], read.Found.Logo, read.Found.Typefaces, read.Found.Fonts,
                SettingsEndpoints.ToWire(read.Look))),
            problem => problem.ToHttp());
    }

    /// <summary>What a page of the site looks like, and the look that is made of it over the present one.</summary>
    /// <param name="path">The page.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<Outcome<(FoundLook Found, Core.Access.SiteLook Look)>> FindAsync(string path, CancellationToken stop)
    {
        var site = options.Origin.Length > 0 ? options.Origin : options.SiteUrl;
        if (!ReturnTo.IsOnThisSite(path) || !Uri.TryCreate(new Uri(site), path, out var at))
        {
            return Problem.In("page", "frame-page", path);
        }

        if (outbound.Refuses(at) is { } foreign)
        {
            return foreign;
        }

        try
        {
            using var fetcher = new Fetcher(outbound, clients, TimeSpan.FromSeconds(options.FetchSeconds));
            var page = await fetcher.GetAsync(at, stop);
            if (page.Status != StatusCodes.Status200OK || !page.Type.Contains("html", StringComparison.OrdinalIgnoreCase))
            {
                return Problem.In("page", "look-page", path, $"{page.Status} {page.Type}");
            }

            var html = Encoding.UTF8.GetString(page.Body);
            var sheets = new List<(Uri At, string Css)>();
            foreach (var sheet in LookFinder.SheetsOf(html, page.Address))
            {
                var got = await fetcher.GetAsync(sheet, stop);
                if (got.Status == StatusCodes.Status200OK)
                {
                    sheets.Add((sheet, Encoding.UTF8.GetString(got.Body)));
                }
            }

            var found = await LookFinder.FindAsync(html, page.Address, sheets);
            return (found, LookFinder.Over(found, policies.Current.Settings.Look));
        }
        catch (SourceException fault)
        {
            return Problem.In("page", "look-page", path, fault.Said.ToReader());
        }
    }
}
