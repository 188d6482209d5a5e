using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Files;
using WarySentinel.Service.Access;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Files;

/// <summary>A line of a folder's page.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="Address">Where it is.</param>
/// <param name="Size">How large it is, in words; empty for a folder.</param>
/// <param name="Day">When it was last written.</param>
/// <param name="IsFolder">Whether it is a folder.</param>
public sealed record FolderLine(string Name, string Address, string Size, string Day, bool IsFolder);

/// <summary>What the page of a folder shows.</summary>
/// <param name="Title">What it is called.</param>
/// <param name="Above">The folders above it, the first first.</param>
/// <param name="Lines">What stands in it.</param>
/// <param name="Notes">What is to be known of it.</param>
public sealed record FolderModel(string Title, IReadOnlyList<SiteLink> Above, IReadOnlyList<FolderLine> Lines, IReadOnlyList<string> Notes);

/// <summary>
/// Folders to download from: a page of what is in them, and the files, whole or in part (RFC 9110 §14). Where the gates of the item count, they are asked
/// for every file.
/// </summary>
public sealed class FolderPages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, ItemDoor door, AreaShelf shelf, AreaFolder folder, ServiceOptions options,
    TimeProvider time)
{
    private static readonly string[] Reading = ["GET", "HEAD"];

    /// <summary>Maps the pages.</summary>
    public void Map(IEndpointRouteBuilder site)
    {
        var account = site.MapGroup(options.AccountPrefix);
        account.MapMethods("/folder/{key}", Reading, EnterAsync);
        account.MapMethods("/files/{token}/{**path}", Reading, ShowAsync);
    }

    /// <summary>Leads whoever may have a folder to where it is found now.</summary>
    private async Task EnterAsync(HttpContext http, string key)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        if (AreaBook.Of(policy).Find(key) is not { } area || (area.Opens == AreaOpens.Address && !policy.Guards(area, now)))
        {
            // Where no gate asks who comes, an address that opens by itself is told to nobody who does not have it.
            await refusals.NotFoundAsync(http);
            return;
        }

        if (await door.MayAsync(http, policy, area.Item, area.Acts, options.AccountPrefix + Folders.StandingPath(area), now) is not null)
        {
            GuardedHeaders.Set(http.Response.Headers);
            http.Response.Redirect(options.AccountPrefix + Folders.PathOf(shelf.TokenOf(policy, area, now)));
        }
    }

    private async Task ShowAsync(HttpContext http, string token, string? path)
    {
        // Whoever reads on from here is not told the address, which is a secret.
        http.Response.Headers["Referrer-Policy"] = "no-referrer";
        http.Response.Headers["X-Robots-Tag"] = "noindex, nofollow";
        var (policy, now) = (policies.Current, time.GetUtcNow());
        if (shelf.Find(policy, token, now) is not { Area: var area } found)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        if (found.IsOver)
        {
            var how = area.Opens == AreaOpens.Gate ? "folder.over-gate" : "folder.over";
            await refusals.MessageAsync(http, StatusCodes.Status410Gone, "folder.over-title", how);
            return;
        }

        var identity = area.Opens == AreaOpens.Address ? await visitors.ReadAsync(http)
            : await door.MayAsync(http, policy, area.Item, area.Acts, options.AccountPrefix + Folders.StandingPath(area), now);
        if (identity is null)
        {
            return;
        }

        var way = path ?? "";
        switch (folder.Find(area.Folder, way.TrimEnd('/')))
        {
            case FileInfo file when !way.EndsWith('/'):
                await FileAnswer.SendAsync(http, file, null);
                break;
            case DirectoryInfo there when http.Request.Path.Value!.EndsWith('/'):
                await ListAsync(http, identity, policy, area, there, token, way.TrimEnd('/'), now);
                break;
            case DirectoryInfo:
                GuardedHeaders.Set(http.Response.Headers);
                http.Response.Redirect(AddressOf(token, way) + "/");
                break;
            case null when way.Length == 0:
                await ListAsync(http, identity, policy, area, null, token, "", now);
                break;
            default:
                await refusals.NotFoundAsync(http);
                break;
        }
    }

    private async Task ListAsync(
        HttpContext http, RequestIdentity identity, Policy policy, Area area, DirectoryInfo? there, string token, string way, DateTimeOffset now)
    {
        PageLanguage.Speak(http, policy);
        var (entries, more) = there is null ? ([], false) : AreaFolder.List(there);
        var (dates, parts) = (new SiteDates(policy.Settings.TimeZone), way.Length == 0 ? [] : way.Split('/'));
        var title = PageWords.Own($"area:{area.Key}.title", area.Title);
        var lines = entries.Select(e => new FolderLine(
            e.Name, AddressOf(token, way.Length == 0 ? e.Name : $"{way}/{e.Name}") + (e.Bytes is null ? "/" : ""), e.Bytes is { } bytes ? SizeOf(bytes) : "",
            Page.Day(dates, dates.StartOf(dates.DayOf(e.At)), false), e.Bytes is null));
        var above = parts.Select((_, n) => new SiteLink(AddressOf(token, string.Join('/', parts.Take(n))) + (n > 0 ? "/" : ""), n == 0 ? title : parts[n - 1]));
        var until = area.WorksUntil(dates, now);
        List<string> notes =
        [
            .. lines.Any() ? [] : new[] { PageWords.Of("folder.empty") },
            .. more ? [PageWords.Of("folder.more", AreaFolder.Most)] : Array.Empty<string>(),
            .. until is { } end ? [PageWords.Of(area.Opens == AreaOpens.Gate ? "folder.changes-gate" : "folder.changes", Page.Day(dates, end, true))]
                : Array.Empty<string>(),
        ];
        await Page.WriteAsync<FolderPage>(http, StatusCodes.Status200OK, new
        {
            Frame = refusals.Frame(identity, options.AccountPrefix + Folders.StandingPath(area)),
            Model = new FolderModel(parts.Length == 0 ? title : parts[^1], [.. above], [.. lines], notes),
        });
    }

    private string AddressOf(string token, string way) =>
        $"{options.AccountPrefix}{Folders.PathOf(token)}{string.Join('/', way.Split('/').Select(Uri.EscapeDataString))}";

    /// <summary>How large a file is, in units of a thousand (IEC 80000-13), as readers of the page's language write it.</summary>
    private static string SizeOf(long bytes)
    {
        string[] units = ["folder.bytes", "folder.kb", "folder.mb", "folder.gb"];
        var (at, size) = (0, (double)bytes);
        while (size >= 999.5 && at < units.Length - 1)
        {
            (at, size) = (at + 1, size / 1000);
        }

        return PageWords.Of(units[at], size.ToString(at == 0 || size >= 99.5 ? "0" : "0.#", SiteCulture.Of(Reader.Book.Language)));
    }
}

/// <summary>What the gates say of an area.</summary>
internal static class AreaGates
{
    /// <summary>Whether its gates keep its files from guests.</summary>
    public static bool Guards(this Policy policy, Area area, DateTimeOffset now) => !policy.Allows(Visitor.Guest, area, now);

    /// <summary>Whether a visitor may have its files.</summary>
    public static bool Allows(this Policy policy, Visitor visitor, Area area, DateTimeOffset now) => policy.Allows(visitor, area.Item, area.Acts, now);
}
