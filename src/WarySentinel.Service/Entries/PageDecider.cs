using System.Text;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Markup;
using WarySentinel.Core.Pages;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Entries;

/// <summary>A page that somebody asks for.</summary>
/// <param name="Policy">What is in force.</param>
/// <param name="RequestIdentity">Who asks.</param>
/// <param name="Path">Where it stands.</param>
public record PageRequest(Policy Policy, RequestIdentity RequestIdentity, RequestPath Path);

/// <summary>A question about a visitor that a page asks, and its answer.</summary>
/// <param name="Item">The item that it is about; none where it is about an address or an audience.</param>
/// <param name="Path">The address that it is about.</param>
/// <param name="Act">The act.</param>
/// <param name="Audience">The audience that it is about.</param>
internal readonly record struct Asked(ItemId Item, RequestPath? Path, Acts Act, Audience? Audience = null)
{
    /// <summary>The answer that it got.</summary>
    public bool Answer { get; init; }

    /// <summary>The answer for a visitor now.</summary>
    public bool AnswerFor(Policy policy, Visitor visitor, DateTimeOffset now) => Audience is not null ? Audience.Admits(visitor, "", now)
        : Path is null ? policy.Allows(visitor, Item, Act, now)
        : Act == Acts.Open ? policy.Judge(visitor, Path, now).Allowed : policy.Allows(visitor, Path, Act, now);
}

/// <summary>Decides, by the policy alone, what of one page one visitor gets.</summary>
internal sealed class PageDecider(PageRequest passage, HttpRequest request, ServiceOptions options, DateTimeOffset now, bool xml, Encoding? encoding = null,
    Action? tooLarge = null)
    : IMarkupDecider
{
    internal static readonly byte[] MarkBytes = Encoding.ASCII.GetBytes(
        "<svg class=\"wary-mark\" role=\"img\" aria-label=\"" + PageWords.Of("mark.closed") + "\" viewBox=\"0 0 16 16\" "
        + "width=\"0.8em\" height=\"0.8em\" style=\"margin-left:.35em;vertical-align:-.05em\">"
        + "<path d=\"M4 7V5a4 4 0 0 1 8 0v2\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"1.6\"/>"
        + "<rect x=\"2.6\" y=\"7\" width=\"10.8\" height=\"7.4\" rx=\"1.6\" fill=\"currentColor\"/></svg>");

    private readonly Dictionary<string, Fate> known = new(StringComparer.Ordinal);
    private readonly List<Asked> asked = [];
    private readonly bool isStaff = passage.Policy.Settings.StaffPasses && passage.RequestIdentity.Visitor.IsStaff(now);
    private string basePath = passage.Path.Sent;

    public ReadOnlySpan<byte> Mark => MarkBytes;

    public ReadOnlySpan<byte> AfterBody =>
        passage.RequestIdentity.Viewpoint is { } viewpoint ? ViewpointBanner.For(viewpoint, options, passage.Path.SentWithQuery) : default;

    /// <summary>Everything that the visitor had a say in so far, with the answers.</summary>
    public IReadOnlyList<Asked> Answers => asked;

    /// <summary>Whether the same answers make the same page: nothing of the moment or of one person was written into it.</summary>
    public bool CanBeRemembered { get; private set; } = passage.RequestIdentity.Viewpoint is null;

    /// <summary>Whether what was looked at so far is the same for everybody: no gate had a say in any of it, and nothing in the page is for somebody.</summary>
    public bool IsSameForAll { get; private set; } = true;

    public bool KeepsHiddenWords => passage.Policy.Settings.HiddenWords != HiddenWords.LeftOut;

    public ReadOnlySpan<byte> HiddenMark => passage.Policy.Settings.HiddenWords == HiddenWords.Marked ? Mark : default;

    public void TooLarge()
    {
        // Nobody knows what stands in it, or behind it.
        (IsSameForAll, CanBeRemembered) = (false, false);
        tooLarge?.Invoke();
    }

    public Fate OfLink(string href)
    {
        if (isStaff)
        {
            // Staff see all of it: what others see is not looked at.
            (IsSameForAll, CanBeRemembered) = (false, false);
            return Fate.Keep;
        }

        if (known.TryGetValue(href, out var fate))
        {
            return fate;
        }

        return known[href] = Judge(href);
    }

    /// <summary>Where an address leads on this site that the visitor may not know of; null where it leads elsewhere, or may be known.</summary>
    public RequestPath? HiddenTargetOf(string address) => OfLink(address) == Fate.Drop ? PathOf(address) : null;

    public bool MayList(string item)
    {
        IsSameForAll = false;
        CanBeRemembered &= !isStaff;
        return isStaff || (ItemId.TryParse(item.Trim(), out var id) && Ask(new Asked(id, null, Acts.List)));
    }

    public Fate OfNamed(string about)
    {
        if (!ItemId.TryParse(about, out var id))
        {
            return OfLink(about);
        }

        IsSameForAll = false;
        CanBeRemembered &= !isStaff;
        return isStaff || passage.Policy.Graph.PlaceOf(id) < 0 || Ask(new Asked(id, null, Acts.List)) ? Fate.Keep : Fate.Drop;
    }

    public bool ShowsPrice(string about)
    {
        IsSameForAll = false;
        CanBeRemembered &= !isStaff;
        if (isStaff)
        {
            return true;
        }

        return ItemId.TryParse(about, out var id) ? passage.Policy.Graph.PlaceOf(id) < 0 || Ask(new Asked(id, null, Acts.Price))
            : PathOf(about) is not { } path || Ask(new Asked(default, path, Acts.Price));
    }

    /// <summary>Addresses were written that belong to the site, in place of those that the origin wrote.</summary>
    public void Turned() => IsSameForAll = false;

    public bool May(string item, string act)
    {
        (IsSameForAll, CanBeRemembered) = (false, CanBeRemembered && !isStaff);
        var not = act.Trim().StartsWith("not ", StringComparison.Ordinal);
        return ItemId.TryParse(item.Trim(), out var id) && ActNames.TryParse(not ? act.Trim()[4..].Trim() : act.Trim(), out var named)
            && passage.Policy.Graph.PlaceOf(id) >= 0
            && (isStaff || Ask(new Asked(id, null, named))) != not;
    }

    public ReadOnlySpan<byte> Form(string name, string? to)
    {
        (IsSameForAll, CanBeRemembered) = (false, false);
        return (encoding ?? Encoding.UTF8).GetBytes(PageForms.Of(
            name, passage.RequestIdentity.Visitor, options, passage.Path.SentWithQuery, PageRequests.BackOf(to),
            () => AccountMenu.LinksOf(passage.Policy, passage.RequestIdentity.Visitor, now)));
    }

    public bool Admits(string audience)
    {
        IsSameForAll = false;
        var read = AudienceParser.Parse(audience);
        return read.IsGood && Ask(new Asked(default, null, default, read.Value));
    }

    public void SetBase(string href) => basePath = TargetOf(href) ?? basePath;

    private Fate Judge(string href)
    {
        if (PathOf(href) is not { } path)
        {
            return Fate.Keep;
        }

        IsSameForAll = IsSameForAll && passage.Policy.IsOpenToAll(path, now);
        if (!Ask(new Asked(default, path, Acts.List)))
        {
            return Fate.Drop;
        }

        // The page one stands on bears no mark, nor does a link of a sitemap.
        return xml || path.Key == passage.Path.Key || Ask(new Asked(default, path, Acts.Open)) ? Fate.Keep : Fate.Mark;
    }

    /// <summary>The address on this site that a link leads to; null where it leads elsewhere.</summary>
    public RequestPath? PathOf(string href) => TargetOf(href) is { } target
        && RequestPath.TryNormalise(target, passage.Policy.Settings.Paths, out var path, out _) ? path : null;

    private bool Ask(Asked question)
    {
        var answer = question.AnswerFor(passage.Policy, passage.RequestIdentity.Visitor, now);
        asked.Add(question with { Answer = answer });
        return answer;
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
            || options.IsSite(url);
        var afterScheme = href.IndexOf("//", StringComparison.Ordinal);
        if (!here || afterScheme < 0)
        {
            return null;
        }

        var slash = href.IndexOfAny(['/', '?'], afterScheme + 2);
        return slash < 0 ? "/" : href[slash] == '?' ? "/" + href[slash..] : href[slash..];
    }
}
