using System.Globalization;
using System.Text;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Markup;
using WarySentinel.Core.Pages;
using WarySentinel.Core.Prices;
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
/// <param name="Target">The address that it is about, as it is guarded by what is in force.</param>
/// <param name="Act">The act.</param>
/// <param name="Audience">The audience that it is about.</param>
/// <param name="Answer">The answer that it got.</param>
internal sealed record Asked(ItemId Item, ResolvedRequest? Target, Acts Act, Audience? Audience, bool Answer)
{
    /// <summary>Whether a visitor gets the same answer now.</summary>
    public bool IsSameFor(Policy policy, Visitor visitor, DateTimeOffset now) => AnswerOf(policy, visitor, now, Item, Target, Act, Audience) == Answer;

    /// <summary>The questions of which none has the answer of another: of addresses that the same gates guard, one is enough.</summary>
    public static Asked[] Apart(IEnumerable<Asked> all) => [.. all.DistinctBy(a => a.Target is { } target
        ? string.Join(' ', target.Gates.Select(g => g.Key)) + "|" + (a.Act == Acts.Open ? target.Act : a.Act) : $"{a.Item}|{a.Act}|{a.Audience}")];

    /// <summary>The answer to a question.</summary>
    public static bool AnswerOf(Policy policy, Visitor visitor, DateTimeOffset now, ItemId item, ResolvedRequest? target, Acts act, Audience? audience) =>
        audience is not null ? audience.Admits(visitor, "", now)
        : target is null ? policy.Allows(visitor, item, act, now) : policy.Allows(visitor, target, act, now);
}

/// <summary>Decides, by the policy alone, what of one page one visitor gets.</summary>
internal sealed class PageDecider(PageRequest passage, HttpRequest request, ServiceOptions options, DateTimeOffset now, bool xml, Encoding? encoding = null,
    Action? tooLarge = null)
    : IMarkupDecider
{
    private static readonly System.Runtime.CompilerServices.ConditionalWeakTable<Wordbook, byte[]> Marks = [];
    private static readonly System.Buffers.SearchValues<char> Odd = System.Buffers.SearchValues.Create(" \t\n\r\f#\\");
    // By the thing itself: what is lately asked for is kept, and comes again as the same.
    private readonly Dictionary<ResolvedRequest, Fate> judged = new(ReferenceEqualityComparer.Instance);
    private List<Asked>? asked;
    private readonly bool isStaff = passage.Policy.Settings.StaffPasses && passage.RequestIdentity.Visitor.IsStaff(now);
    private string basePath = passage.Path.Sent;

    /// <summary>In the site's language: a page that is remembered is given to visitors of every language.</summary>
    public ReadOnlySpan<byte> Mark => MarkOf(TextBook.Of(passage.Policy).SpokenIn(passage.Policy.Settings.Language, passage.Policy.Settings.Language));

    public ReadOnlySpan<byte> AfterBody =>
        passage.RequestIdentity.Viewpoint is { } viewpoint ? ViewpointBanner.For(viewpoint, options, passage.Path.SentWithQuery, Book)
        : default;

    private Wordbook Book => PageLanguage.Of(request.HttpContext, passage.Policy);

    /// <summary>The mark beside a link that leads to something closed.</summary>
    internal static byte[] MarkOf(Wordbook book) => Marks.GetValue(book, static b => Encoding.UTF8.GetBytes(
        "<svg class=\"wary-mark\" role=\"img\" aria-label=\"" + System.Text.Encodings.Web.HtmlEncoder.Default.Encode(b["mark.closed"])
        + "\" viewBox=\"0 0 16 16\" width=\"0.8em\" height=\"0.8em\" style=\"margin-left:.35em;vertical-align:-.05em\">"
        + "<path d=\"M4 7V5a4 4 0 0 1 8 0v2\" fill=\"none\" stroke=\"currentColor\" stroke-width=\"1.6\"/>"
        + "<rect x=\"2.6\" y=\"7\" width=\"10.8\" height=\"7.4\" rx=\"1.6\" fill=\"currentColor\"/></svg>"));

    /// <summary>Everything that the visitor had a say in so far, with the answers; nothing where it is not kept.</summary>
    public IReadOnlyList<Asked> Answers => asked ?? [];

    /// <summary>Whether the answers are kept: where nobody remembers the page, they would be made for nothing.</summary>
    public bool KeepsAnswers
    {
        init => asked = value ? [] : null;
    }

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

        return Judge(href);
    }

    /// <summary>Where an address leads on this site that the visitor may not know of; null where it leads elsewhere, or may be known.</summary>
    public RequestPath? HiddenTargetOf(string address) => OfLink(address) == Fate.Drop ? Resolved(address)?.Path : null;

    public bool MayList(string item)
    {
        IsSameForAll = false;
        CanBeRemembered &= !isStaff;
        return isStaff || (ItemId.TryParse(item.Trim(), out var id) && Ask(id, null, Acts.List));
    }

    public Fate OfNamed(string about)
    {
        if (!ItemId.TryParse(about, out var id))
        {
            return OfLink(about);
        }

        IsSameForAll = false;
        CanBeRemembered &= !isStaff;
        return isStaff || passage.Policy.Graph.PlaceOf(id) < 0 || Ask(id, null, Acts.List) ? Fate.Keep : Fate.Drop;
    }

    public bool ShowsPrice(string about)
    {
        IsSameForAll = false;
        CanBeRemembered &= !isStaff;
        if (isStaff)
        {
            return true;
        }

        return ItemId.TryParse(about, out var id) ? passage.Policy.Graph.PlaceOf(id) < 0 || Ask(id, null, Acts.Price)
            : Resolved(about) is not { } target || Ask(default, target, Acts.Price);
    }

    /// <summary>Addresses were written that belong to the site, in place of those that the origin wrote.</summary>
    public void Turned() => IsSameForAll = false;

    public bool May(string item, string act)
    {
        (IsSameForAll, CanBeRemembered) = (false, CanBeRemembered && !isStaff);
        var not = act.Trim().StartsWith("not ", StringComparison.Ordinal);
        return ItemId.TryParse(item.Trim(), out var id) && ActNames.TryParse(not ? act.Trim()[4..].Trim() : act.Trim(), out var named)
            && passage.Policy.Graph.PlaceOf(id) >= 0
            && (isStaff || Ask(id, null, named)) != not;
    }

    public PriceSaid? PriceOf(string item, string? quantity, string? currency)
    {
        IsSameForAll = false;
        CanBeRemembered &= !isStaff;
        var (policy, visitor) = (passage.Policy, passage.RequestIdentity.Visitor);
        var many = 1;
        if (!ItemId.TryParse(item.Trim(), out var id) || policy.Graph.PlaceOf(id) < 0 || !(isStaff || Ask(id, null, Acts.Price))
            || (quantity is not null && (!int.TryParse(quantity.Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out many) || many < 1)))
        {
            return PriceSaid.Nothing;
        }

        var book = PriceBook.Of(policy);
        // The dates of a list are no gate's: a page that hangs on them is not kept.
        CanBeRemembered &= !book.All.Any(l => l.From is not null || l.Until is not null);
        var price = book.For(
            policy.Graph, id, many, PlainText.OrNull(currency)?.Trim(), now, list => isStaff ? list.Audience.Admits(visitor, "", now)
                : Ask(default, null, default, list.Audience));
        return price is null ? null : new PriceSaid(price.Unit.Told(SiteCulture.Of(policy.Settings.Language)), price.Unit.Amount);
    }

    public ReadOnlySpan<byte> Form(string name, string? to)
    {
        (IsSameForAll, CanBeRemembered) = (false, false);
        return (encoding ?? Encoding.UTF8).GetBytes(PageForms.Of(
            name, passage.RequestIdentity.Visitor, options, passage.Path.SentWithQuery, PageRequests.BackOf(to),
            () => AccountMenu.LinksOf(passage.Policy, passage.RequestIdentity.Visitor, now, Book), Book, PageBook.Of(passage.Policy)));
    }

    public bool Admits(string audience)
    {
        IsSameForAll = false;
        var read = AudienceParser.Parse(audience);
        return read.IsGood && Ask(default, null, default, read.Value);
    }

    public void SetBase(string href) => basePath = TargetOf(href) ?? basePath;

    private Fate Judge(string href)
    {
        // Most links of most pages: no gate has a say in them, whoever asks.
        if (Resolved(href) is not { Gates.Count: > 0 } target)
        {
            return Fate.Keep;
        }

        IsSameForAll = false;
        return judged.TryGetValue(target, out var fate) ? fate : judged[target] = Judge(target);
    }

    private Fate Judge(ResolvedRequest target)
    {
        if (!Ask(default, target, Acts.List))
        {
            return Fate.Drop;
        }

        // The page one stands on bears no mark, nor does a link of a sitemap.
        return xml || target.Path.Key == passage.Path.Key || Ask(default, target, Acts.Open) ? Fate.Keep : Fate.Mark;
    }

    /// <summary>The address on this site that a link leads to; null where it leads elsewhere.</summary>
    public RequestPath? PathOf(string href) => Resolved(href)?.Path;

    /// <summary>The address on this site that a link leads to, with the gates that apply to it; null where it leads elsewhere.</summary>
    private ResolvedRequest? Resolved(string href) =>
        TargetOf(href) is { } target && passage.Policy.TryResolve(target, now, out var request, out _) ? request : null;

    private bool Ask(ItemId item, ResolvedRequest? target, Acts act, Audience? audience = null)
    {
        var answer = Asked.AnswerOf(passage.Policy, passage.RequestIdentity.Visitor, now, item, target, act, audience);
        asked?.Add(new Asked(item, target, act, audience, answer));
        return answer;
    }

    /// <summary>The path and query on this site that a link leads to, or null when it leads elsewhere.</summary>
    private string? TargetOf(string href)
    {
        if (href is ['/', not '/', ..] && href.AsSpan().IndexOfAny(Odd) < 0)
        {
            return href;
        }

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
