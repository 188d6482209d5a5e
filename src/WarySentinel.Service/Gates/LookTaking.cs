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
internal static class LookTaking
{
    /// <summary>What a page looks like, and a look made of it. Nothing is stored.</summary>
    public static async Task<Results<Ok<FoundLookView>, ProblemHttpResult>> TakeAsync(
        LookTakeDraft draft, PolicyHolder policies, Outbound outbound, IHttpClientFactory clients, ServiceOptions options, CancellationToken stop)
    {
        var path = string.IsNullOrWhiteSpace(draft.Page) ? "/" : draft.Page.Trim();
        var site = options.Origin.Length > 0 ? options.Origin : options.SiteUrl;
        if (!ReturnTo.IsOnThisSite(path) || !Uri.TryCreate(new Uri(site), path, out var at))
        {
            return Problem.In("page", "frame-page", path).ToHttp();
        }

        if (outbound.Refuses(at) is { } foreign)
        {
            return foreign.ToHttp();
        }

        try
        {
            using var fetcher = new Fetcher(outbound, clients, TimeSpan.FromSeconds(options.FetchSeconds));
            var page = await fetcher.GetAsync(at, stop);
            if (page.Status != StatusCodes.Status200OK || !page.Type.Contains("html", StringComparison.OrdinalIgnoreCase))
            {
                return Problem.In("page", "look-page", path, $"{page.Status} {page.Type}").ToHttp();
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
            return TypedResults.Ok(new FoundLookView(
                path, [.. found.Colours.Select(c => new FoundColourView(c.Where, c.Colour))], found.Logo, found.Typefaces, found.Fonts,
                SettingsEndpoints.ToWire(LookFinder.Over(found, policies.Current.Settings.Look))));
        }
        catch (SourceException fault)
        {
            return Problem.In("page", "look-page", path, fault.Said.ToReader()).ToHttp();
        }
    }
}
