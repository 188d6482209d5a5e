using WarySentinel.Contract.Access;

namespace WarySentinel.Contract.Gates;

/// <summary>How the origin reads paths.</summary>
public sealed record PathRulesView(
    bool IgnoreCase, bool IgnoreTrailingSlash, bool RefuseSemicolons, bool RefuseTrailingDots, IReadOnlyList<string>? IndexNames = null);

/// <summary>How the visitor's pages look. Colours as <c>#rrggbb</c>.</summary>
public sealed record SiteLook
{
    /// <summary>The accent.</summary>
    public string Accent { get; init; } = "#8a5a00";

    /// <summary>Behind the panel.</summary>
    public string Background { get; init; } = "#f7f3ea";

    /// <summary>A second colour for a soft sky behind the panel.</summary>
    public string? Sky { get; init; }

    /// <summary>Links of the page's head.</summary>
    public IReadOnlyList<SiteLink> Links { get; init; } = [];

    /// <summary>Address on the site of a logo.</summary>
    public string? Logo { get; init; }

    /// <summary><c>light</c>, <c>dark</c>, or <c>auto</c>: as the visitor's device is set.</summary>
    public string Theme { get; init; } = "light";

    /// <summary>Behind the panel where pages are dark; null for one that is made of the background.</summary>
    public string? Night { get; init; }

    /// <summary>Where the panel stands: <c>middle</c>, <c>start</c>, <c>end</c>.</summary>
    public string Place { get; init; } = "middle";

    /// <summary>The letters of pages: <c>serif</c>, <c>sans</c>, <c>device</c> (those of the visitor's device), or <c>site</c> (its own, from <see
    /// cref="Font"/>).</summary>
    public string Type { get; init; } = "serif";

    /// <summary>Address on the site of the file of its own typeface, for the type <c>site</c>.</summary>
    public string? Font { get; init; }

    /// <summary>Address on the site of a picture behind the panel.</summary>
    public string? Picture { get; init; }

    /// <summary>Address on the site of a film without sound behind the panel; its still is <see cref="Picture"/>.</summary>
    public string? Film { get; init; }

    /// <summary>A style of one's own for the panel, in CSS; each rule is for what stands in <c>.panel</c>.</summary>
    public string? Css { get; init; }

    /// <summary>A style of one's own for the pages that are written here, in CSS; each rule is for what stands in <c>.hosted</c>.</summary>
    public string? HostedCss { get; init; }
}

/// <summary>Which page's look is to be taken.</summary>
/// <param name="Page">Its address on the site; its first page where none is said.</param>
public sealed record LookTakeDraft(string? Page = null);

/// <summary>A colour of a page of the site.</summary>
/// <param name="Where"><c>header</c>, <c>page</c>, <c>button</c>, <c>link</c>, <c>heading</c> or <c>theme</c>.</param>
/// <param name="Colour">The colour.</param>
public sealed record FoundColourView(string Where, string Colour);

/// <summary>What was found of the look of a page of the site; nothing is stored yet.</summary>
/// <param name="Page">The page.</param>
/// <param name="Colours">Its colours.</param>
/// <param name="Logo">The address of its logo.</param>
/// <param name="Typefaces">The typefaces that it names.</param>
/// <param name="Fonts">The addresses of their files on the site.</param>
/// <param name="Look">A look made of it, over the one that is set; colours that could hardly be read are the nearest that can.</param>
public sealed record FoundLookView(
    string Page, IReadOnlyList<FoundColourView> Colours, string? Logo, IReadOnlyList<string> Typefaces, IReadOnlyList<string> Fonts, SiteLook Look);

/// <summary>A crawler that the owner welcomes.</summary>
/// <param name="Name">What the owner calls it; also looked for in the user agent.</param>
/// <param name="Hosts">Ends of host names that its addresses resolve to, such as <c>crawl.search.example</c>.</param>
/// <param name="Ranges">Address ranges (RFC 4632) that its operator publishes.</param>
public sealed record WelcomeCrawler(string Name, IReadOnlyList<string> Hosts, IReadOnlyList<string> Ranges);

/// <summary>Sweeps that run by themselves.</summary>
/// <param name="EveryHours">Hours between two; 0 for none.</param>
/// <param name="As">Viewpoints beside the guest.</param>
/// <param name="AlertTo">Who is told of a leak, by e-mail.</param>
public sealed record SweepSchedule(int EveryHours = 0, IReadOnlyList<string>? As = null, string? AlertTo = null);

/// <summary>What the owner sets of letters.</summary>
/// <param name="SignIn">Whether members may sign in by a letter, in place of a password. Staff never do.</param>
/// <param name="Codes">Whether a letter brings a code of six digits in place of a link.</param>
/// <param name="NoticesTo">Who is told what needs a hand, by e-mail.</param>
/// <param name="Hold">Whether all letters wait.</param>
public sealed record LetterSettings(bool SignIn = false, bool Codes = false, string? NoticesTo = null, bool Hold = false);

/// <summary>Who may join by themselves, and how.</summary>
/// <param name="Way"><c>closed</c>: staff add and invite people; <c>approval</c>: staff say yes first; <c>open</c>: whoever wants to.</param>
/// <param name="Confirm">Whether their e-mail address has to be proved by a letter first.</param>
/// <param name="Blocked">Mail domains that nobody comes in with unless staff let them.</param>
/// <param name="Trusted">Mail domains that raise no suspicion, whatever lists say of them.</param>
/// <param name="First">Whether a guest who would have to sign in is first offered to join; left out to leave it.</param>
public sealed record JoinSettings(
    string Way = "closed", bool Confirm = true, IReadOnlyList<string>? Blocked = null, IReadOnlyList<string>? Trusted = null, bool? First = null);

/// <summary>
/// The settings of the site. <c>hiddenWords</c> says what becomes of the words of a link in running text that leads to something hidden: <c>kept</c>,
/// <c>marked</c>, <c>left-out</c>.
/// </summary>
public sealed record SettingsView(
    string SiteName, bool StaffPasses, string Presence, PathRulesView Paths, SiteLook Look, PromptWords? Prompt, IReadOnlyList<WelcomeCrawler> Crawlers,
    SweepSchedule Sweep, string TimeZone, string Language, LetterSettings Letters,
    JoinSettings Joining, int Version, string HiddenWords = "kept")
{
    /// <summary>What the guarded site is told of whoever asks: <c>member</c>, <c>roles</c>, <c>groups</c>, <c>plans</c>, <c>gates</c>, <c>token</c>.</summary>
    public IReadOnlyList<string> OriginLearns { get; init; } = [];

    /// <summary>The languages (RFC 5646 tags) that pages are offered in beside the site's; empty for all that there are words in.</summary>
    public IReadOnlyList<string> Languages { get; init; } = [];

    /// <summary>The page of the site in which ours stand; null where they stand alone.</summary>
    public SitePlace? Frame { get; init; }
}

/// <summary>A place on the site in which pages of ours stand.</summary>
/// <param name="Page">The address of the page; empty in a draft to have them stand alone.</param>
/// <param name="Element">The element that they fill: <c>#id</c>, <c>.class</c> or a name such as <c>main</c>.</param>
public sealed record SitePlace(string Page, string Element = "main");

/// <summary>Settings to be stored; what is left out stays as it is.</summary>
public sealed record SettingsDraft(
    string? SiteName, bool? StaffPasses, string? Presence, PathRulesView? Paths, SiteLook? Look, PromptWords? Prompt,
    IReadOnlyList<WelcomeCrawler>? Crawlers, SweepSchedule? Sweep, string? TimeZone, string? Language, LetterSettings? Letters = null,
    JoinSettings? Joining = null, string? HiddenWords = null)
{
    /// <summary>The page of the site in which ours stand; one with an empty address to have them stand alone.</summary>
    public SitePlace? Frame { get; init; }

    /// <summary>What the guarded site is told of whoever asks: any of those that <see cref="SettingsView.OriginLearns"/> may say.</summary>
    public IReadOnlyList<string>? OriginLearns { get; init; }

    /// <summary>The languages (RFC 5646 tags) that pages are offered in beside the site's; empty for all that there are words in.</summary>
    public IReadOnlyList<string>? Languages { get; init; }
}
