using System.Text;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Markup;
using WarySentinel.Core.Pages;
using WarySentinel.Service.Pages;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Gateway;

/// <summary>Decides, by the policy alone, what of one page one visitor gets.</summary>
internal sealed class PageDecider(ProxiedRequest passage, HttpRequest request, ServiceOptions options, DateTimeOffset now, bool xml, Encoding? encoding = null,
    Action? tooLarge = null)
    : IMarkupDecider
{
    internal static readonly byte[] MarkBytes = Encoding.ASCII.GetBytes(
        "<svg class=\"wary-mark\" role=\"img\" aria-label=\"" + PageWords.Of("mark.closed") + "\" viewBox=\"0 0 16 16\" "
        + "width=\"0.8em\" height=\"0.8em\" style=\"margin-left:.35em;vertical-align:-.05em\">"
        + "<path d=\"M4 7V5a4 4 0 0 1 8 0v2\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"1.6\"/>"
        + "<rect x=\"2.6\" y=\"7\" width=\"10.8\" height=\"7.4\" rx=\"1.6\" fill=\"currentColor\"/></svg>");

    private readonly Dictionary<string, Fate> known = new(StringComparer.Ordinal);
    private readonly bool isStaff = passage.Policy.Settings.StaffPasses && passage.RequestIdentity.Visitor.IsStaff(now);
    private string basePath = passage.Path.Sent;

    public ReadOnlySpan<byte> Mark => MarkBytes;

    public ReadOnlySpan<byte> AfterBody =>
        passage.RequestIdentity.Viewpoint is { } viewpoint ? ViewpointBanner.For(viewpoint, options, passage.Path.SentWithQuery) : default;

    /// <summary>Whether what was looked at so far is the same for everybody: no gate had a say in any of it, and nothing in the page is for somebody.</summary>
    public bool IsSameForAll { get; private set; } = true;

    public bool KeepsHiddenWords => passage.Policy.Settings.HiddenWords != HiddenWords.LeftOut;

    public ReadOnlySpan<byte> HiddenMark => passage.Policy.Settings.HiddenWords == HiddenWords.Marked ? Mark : default;

    public void TooLarge()
    {
        // Nobody knows what stands in it, or behind it.
        IsSameForAll = false;
        tooLarge?.Invoke();
    }

    public Fate OfLink(string href)
    {
        if (isStaff)
        {
            // Staff see all of it: what others see is not looked at.
            IsSameForAll = false;
            return Fate.Keep;
        }

        if (known.TryGetValue(href, out var fate))
        {
            return fate;
        }

        return known[href] = Judge(href);
    }

    /// <summary>Where an address leads on this site that the visitor may not know of; null where it leads elsewhere, or may be known.</summary>
    public RequestPath? HiddenTargetOf(string address) => OfLink(address) == Fate.Drop && TargetOf(address) is { } target
        && RequestPath.TryNormalise(target, passage.Policy.Settings.Paths, out var path, out _) ? path : null;

    public bool MayList(string item)
    {
        IsSameForAll = false;
        return isStaff || (ItemId.TryParse(item.Trim(), out var id) && passage.Policy.Allows(passage.RequestIdentity.Visitor, id, Acts.List, now));
    }

    public bool May(string item, string act)
    {
        IsSameForAll = false;
        var not = act.Trim().StartsWith("not ", StringComparison.Ordinal);
        return ItemId.TryParse(item.Trim(), out var id) && ActNames.TryParse(not ? act.Trim()[4..].Trim() : act.Trim(), out var named)
            && passage.Policy.Graph.PlaceOf(id) >= 0
            && (isStaff || passage.Policy.Allows(passage.RequestIdentity.Visitor, id, named, now)) != not;
    }

    public ReadOnlySpan<byte> Form(string name, string? to)
    {
        IsSameForAll = false;
        return (encoding ?? Encoding.UTF8).GetBytes(PageForms.Of(
            name, passage.RequestIdentity.Visitor, options, passage.Path.SentWithQuery, PageRequests.BackOf(to),
            () => AccountMenu.LinksOf(passage.Policy, passage.RequestIdentity.Visitor, now)));
    }

    public bool Admits(string audience)
    {
        IsSameForAll = false;
        var read = AudienceParser.Parse(audience);
        return read.IsGood && read.Value.Admits(passage.RequestIdentity.Visitor, "", now);
    }

    public void SetBase(string href) => basePath = TargetOf(href) ?? basePath;

    private Fate Judge(string href)
    {
        if (TargetOf(href) is not { } target || !RequestPath.TryNormalise(target, passage.Policy.Settings.Paths, out var path, out _))
        {
            return Fate.Keep;
        }

        var visitor = passage.RequestIdentity.Visitor;
        IsSameForAll = IsSameForAll && passage.Policy.IsOpenToAll(path, now);
        if (!passage.Policy.Allows(visitor, path, Acts.List, now))
        {
            return Fate.Drop;
        }

        // The page one stands on bears no mark, nor does a link of a sitemap.
        return xml || path.Key == passage.Path.Key || passage.Policy.Judge(visitor, path, now).Allowed ? Fate.Keep : Fate.Mark;
    }

    /// <summary>The path and query on this site that a link leads to, or null when it leads elsewhere.</summary>
    private string? TargetOf(string href)
    {
        // Browsers strip blanks around, and tabs and line breaks inside (URL Standard §4.1).
        href = href.Trim().Replace("\t", "", StringComparison.Ordinal).Replace("\n", "", StringComparison.Ordinal).Replace("\r", "", StringComparison.Ordinal);
        var hash = href.IndexOf('#', StringComparison.Ordinal);
        href = (hash < 0 ? href : href[..hash]).Replace('\\', '/');
        if (href is "" or ['?', ..])
        {
            return href.Length == 0 ? null : basePath.Split('?')[0] + href;
        }

        if (href.StartsWith("//", StringComparison.Ordinal))
        {
            href = request.Scheme + ":" + href;
        }

        if (href[0] == '/')
        {
            return href;
        }

        var colon = href.IndexOf(':', StringComparison.Ordinal);
        if (colon > 0 && href.AsSpan(0, colon).IndexOfAny("/?") < 0)
        {
            return TargetOfAbsolute(href);
        }

        var folder = basePath.Split('?')[0];
        return folder[..(folder.LastIndexOf('/') + 1)] + href;
    }

    private string? TargetOfAbsolute(string href)
    {
        if (!href.StartsWith("http", StringComparison.OrdinalIgnoreCase) || !Uri.TryCreate(href, UriKind.Absolute, out var url))
        {
            return null;
        }

        var here = string.Equals(url.Authority, request.Host.Value, StringComparison.OrdinalIgnoreCase)
            || IsHost(url, options.SiteUrl) || IsHost(url, options.Origin);
        var afterScheme = href.IndexOf("//", StringComparison.Ordinal);
        if (!here || afterScheme < 0)
        {
            return null;
        }

        var slash = href.IndexOfAny(['/', '?'], afterScheme + 2);
        return slash < 0 ? "/" : href[slash] == '?' ? "/" + href[slash..] : href[slash..];
    }

    private static bool IsHost(Uri url, string address) =>
        address.Length > 0 && Uri.TryCreate(address, UriKind.Absolute, out var ours)
            && ours.Authority.Equals(url.Authority, StringComparison.OrdinalIgnoreCase);
}
