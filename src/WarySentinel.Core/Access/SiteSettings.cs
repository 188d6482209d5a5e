using System.Net;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>What an owner sets once for the whole site.</summary>
public sealed record SiteSettings
{
    /// <summary>What the site is called.</summary>
    public string SiteName { get; init; } = "This site";

    /// <summary>How the pages that visitors see are dressed.</summary>
    public SiteLook Look { get; init; } = new();

    /// <summary>Whether <c>owner</c> and <c>editor</c> pass every gate.</summary>
    public bool StaffPasses { get; init; } = true;

    /// <summary>What the refused find in listings where a gate doesn't say.</summary>
    public Presence Presence { get; init; } = Presence.Listed;

    /// <summary>The owner's words on the password prompt, where a gate has none of its own.</summary>
    public PromptWords? Prompt { get; init; }

    /// <summary>Crawlers that are welcome; only a verified one counts.</summary>
    public IReadOnlyList<WelcomeCrawler> Crawlers { get; init; } = [];

    /// <summary>The sweep that runs by itself, if one does.</summary>
    public SweepSchedule Sweep { get; init; } = new();

    /// <summary>What letters are for, and whether they go out.</summary>
    public LetterSettings Letters { get; init; } = new();

    /// <summary>Who may join by themselves, and how.</summary>
    public JoinSettings Joining { get; init; } = new();

    /// <summary>What becomes of the words of a link in running text that leads to something hidden.</summary>
    public HiddenWords HiddenWords { get; init; }

    /// <summary>The page of the site in which ours stand; null where they stand alone.</summary>
    public SitePlace? Frame { get; init; }

    /// <summary>What the guarded site is told of whoever asks.</summary>
    public IReadOnlyList<string> OriginLearns { get; init => field = value ?? OriginFacts.Usual; } = OriginFacts.Usual;

    /// <summary>The language of the site (RFC 5646 tag, such as <c>sv</c> or <c>de-AT</c>): lists are sorted as it sorts.</summary>
    public string Language { get; init; } = "en";

    /// <summary>
    /// The languages (RFC 5646 tags) that pages for visitors are offered in beside the site's; all that there are words in where it names none.
    /// </summary>
    public IReadOnlyList<string> Languages { get; init => field = value ?? []; } = [];

    /// <summary>The time zone that days are meant in, by its IANA name such as <c>Europe/Lisbon</c>.</summary>
    public string TimeZone { get; init; } = "UTC";

    /// <summary>How the origin reads paths.</summary>
    public PathRules Paths { get; init; } = new();

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;
}

/// <summary>A place on the site in which pages of ours stand.</summary>
/// <param name="Page">The address of the page.</param>
/// <param name="Element">The element that they fill: <c>#id</c>, <c>.class</c> or a name such as <c>main</c>.</param>
public sealed record SitePlace(string Page, string Element)
{
    private static readonly System.Buffers.SearchValues<char> Named =
        System.Buffers.SearchValues.Create("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_");

    /// <summary>Whether an element can be named so.</summary>
    public static bool IsElement(string? element) => element is { Length: > 0 and <= 80 }
        && element.AsSpan(element[0] is '#' or '.' ? 1 : 0) is { Length: > 0 } name && char.IsAsciiLetter(name[0]) && !name.ContainsAnyExcept(Named);
}

/// <summary>What the owner sets of letters.</summary>
/// <param name="SignIn">Whether members may sign in by a letter, in place of a password. Staff never do.</param>
/// <param name="Codes">Whether a letter brings a code of six digits, to be typed in the browser that asked, in place of a link.</param>
/// <param name="NoticesTo">An e-mail address that is told what needs a hand, or null.</param>
/// <param name="Hold">Whether all letters wait.</param>
public sealed record LetterSettings(bool SignIn = false, bool Codes = false, string? NoticesTo = null, bool Hold = false);

/// <summary>Who may join by themselves.</summary>
public enum JoinWay
{
    /// <summary>Nobody: staff add and invite people.</summary>
    Closed,
    /// <summary>Whoever asks, once staff have said yes.</summary>
    Approval,
    /// <summary>Whoever wants to.</summary>
    Open,
    /// <summary>Whom staff invite, and nobody else.</summary>
    Invitation,
}

/// <summary>What the owner sets of joining.</summary>
/// <param name="Way">Who may.</param>
/// <param name="Confirm">Whether their e-mail address has to be proved by a letter first.</param>
public sealed record JoinSettings(JoinWay Way = JoinWay.Closed, bool Confirm = true)
{
    /// <summary>Whether a guest who would have to sign in is first offered to join; else the other way round.</summary>
    public bool First { get; init; }

    /// <summary>Whether people may join by themselves, at once or once staff say yes.</summary>
    public bool IsPublic => Way is JoinWay.Open or JoinWay.Approval;

    /// <summary>Mail domains that nobody comes in with unless staff let them.</summary>
    public IReadOnlyList<string> Blocked { get; init; } = [];

    /// <summary>Mail domains that raise no suspicion, whatever lists say of them.</summary>
    public IReadOnlyList<string> Trusted { get; init; } = [];

    /// <summary>The names of the ways.</summary>
    public static readonly IReadOnlyList<string> Ways = [.. Enum.GetValues<JoinWay>().Select(NameOf)];

    /// <summary>The way of a name; one that is none, and is refused, where there is no such.</summary>
    public static JoinWay WayOf(string? name) => (JoinWay)Ways.ToList().IndexOf(name ?? "");

    /// <summary>A way as it is written.</summary>
    public static string NameOf(JoinWay way) => way.ToString().ToLowerInvariant();
}

/// <summary>The settings of joining as people write them; what is null stays as it is.</summary>
/// <param name="Way">Who may, by its name.</param>
/// <param name="Confirm">Whether their e-mail address has to be proved first.</param>
/// <param name="Blocked">Mail domains that nobody comes in with.</param>
/// <param name="Trusted">Mail domains that raise no suspicion.</param>
/// <param name="First">Whether a guest who would have to sign in is first offered to join.</param>
public sealed record JoiningDraft(
    string? Way = null, bool? Confirm = null, IReadOnlyList<string>? Blocked = null, IReadOnlyList<string>? Trusted = null, bool? First = null)
{
    /// <summary>The settings, and what is written over them; a way that is none is refused where they are stored.</summary>
    public JoinSettings Over(JoinSettings old) => old with
    {
        Way = Way is null ? old.Way : JoinSettings.WayOf(Way),
        Confirm = Confirm ?? old.Confirm,
        Blocked = Tidy(Blocked) ?? old.Blocked,
        Trusted = Tidy(Trusted) ?? old.Trusted,
        First = First ?? old.First,
    };

    /// <summary>The draft that says the same as settings.</summary>
    public static JoiningDraft Of(JoinSettings joining) => new(
        JoinSettings.NameOf(joining.Way), joining.Confirm, joining.Blocked, joining.Trusted, joining.First ? true : null);

    private static List<string>? Tidy(IReadOnlyList<string>? typed) =>
        typed?.Select(d => (d ?? "").Trim().TrimStart('@').ToLowerInvariant()).Where(d => d.Length > 0).Distinct().ToList();
}

/// <summary>How sign-in pages and the like are dressed, so that they look like part of the site.</summary>
public sealed record SiteLook
{
    /// <summary>The accent colour, as <c>#rrggbb</c>.</summary>
    public string Accent { get; init; } = "#8a5a00";

    /// <summary>The colour behind the panel, as <c>#rrggbb</c>.</summary>
    public string Background { get; init; } = "#f7f3ea";

    /// <summary>A second colour for a soft sky behind the panel, or null for a plain one.</summary>
    public string? Sky { get; init; }

    /// <summary>Links of the page's head: address on this site and words.</summary>
    public IReadOnlyList<SiteLink> Links { get; init; } = [];

    /// <summary>A picture at the head of the page: an address on this site.</summary>
    public string? Logo { get; init; }

    /// <summary>Whether pages are light, dark, or as the visitor's device is set.</summary>
    public PageTheme Theme { get; init; }

    /// <summary>The colour behind the panel where pages are dark, as <c>#rrggbb</c>; null for one that is made of <see cref="Background"/>.</summary>
    public string? Night { get; init; }

    /// <summary>Where the panel stands.</summary>
    public PanelPlace Place { get; init; }

    /// <summary>The letters of pages.</summary>
    public PageType Type { get; init; }

    /// <summary>The file of the site's own typeface, for <see cref="PageType.Site"/>: an address on this site.</summary>
    public string? Font { get; init; }

    /// <summary>Whether an address is that of a typeface, by its ending.</summary>
    public static bool IsFont(string address) =>
        new[] { ".woff2", ".woff", ".ttf", ".otf" }.Any(e => address.Split('?')[0].EndsWith(e, StringComparison.OrdinalIgnoreCase));

    /// <summary>A picture behind the panel: an address on this site; null for none.</summary>
    public string? Picture { get; init; }

    /// <summary>
    /// A film without sound that goes round behind the panel, in place of <see cref="Picture"/>, which is its still for whoever wants no motion: an address on
    /// this site; null for none.
    /// </summary>
    public string? Film { get; init; }

    /// <summary>Whether an address is that of a film, by its ending.</summary>
    public static bool IsFilm(string address) =>
        new[] { ".mp4", ".webm" }.Any(e => address.Split('?')[0].EndsWith(e, StringComparison.OrdinalIgnoreCase));

    /// <summary>A style of the owner's own for the panel (<see cref="OwnStyle"/>); null for none.</summary>
    public string? Css { get; init; }

    /// <summary>The same for the pages that the owner wrote.</summary>
    public string? HostedCss { get; init; }
}

/// <summary>Whether pages are light or dark.</summary>
public enum PageTheme
{
    /// <summary>Always light.</summary>
    Light,
    /// <summary>Always dark.</summary>
    Dark,
    /// <summary>As the visitor's device is set.</summary>
    Auto,
}

/// <summary>The letters that pages are set in.</summary>
public enum PageType
{
    /// <summary>Headings with serifs, the rest without; both come with the page.</summary>
    Serif,
    /// <summary>All without serifs; it comes with the page.</summary>
    Sans,
    /// <summary>Those of the visitor's device: nothing has to be fetched.</summary>
    Device,
    /// <summary>The site's own, from a file on it.</summary>
    Site,
}

/// <summary>Where the panel of a page stands.</summary>
public enum PanelPlace
{
    /// <summary>In the middle.</summary>
    Middle,
    /// <summary>At the side where lines begin.</summary>
    Start,
    /// <summary>At the side where lines end.</summary>
    End,
}

/// <summary>A link of the site's own menu.</summary>
public sealed record SiteLink(string Address, string Words);

/// <summary>A crawler that the owner welcomes.</summary>
/// <param name="Name">What the owner calls it; also looked for in the user agent, so that nobody else costs a look-up.</param>
/// <param name="Hosts">Ends of host names that its addresses resolve to, such as <c>crawl.search.example</c>.</param>
/// <param name="Ranges">Address ranges (RFC 4632) that its operator publishes.</param>
public sealed record WelcomeCrawler(string Name, IReadOnlyList<string> Hosts, IReadOnlyList<string> Ranges)
{
    /// <summary>Whether an address lies in one of the ranges.</summary>
    public bool Contains(IPAddress address) =>
        Ranges.Any(r => IPNetwork.TryParse(r, out var range) && range.Contains(address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address));

    /// <summary>Whether a host name is one of the crawler's: the very name, or beneath it.</summary>
    public bool Owns(string host)
    {
        host = host.TrimEnd('.');
        return Hosts.Any(h => host.Equals(h.Trim('.'), StringComparison.OrdinalIgnoreCase)
            || host.EndsWith('.' + h.Trim('.'), StringComparison.OrdinalIgnoreCase));
    }
}

/// <summary>When the sweep runs by itself, as whom, and who is told of leaks.</summary>
/// <param name="EveryHours">Hours between two; 0 for never.</param>
/// <param name="As">Viewpoints beside the guest.</param>
/// <param name="AlertTo">An e-mail address that is told of leaks, or null.</param>
public sealed record SweepSchedule(int EveryHours = 0, IReadOnlyList<string>? As = null, string? AlertTo = null);
