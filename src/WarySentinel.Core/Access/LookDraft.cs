namespace WarySentinel.Core.Access;

/// <summary>A look as people write it; what is null stays as it is, and an empty text takes away what may be missing.</summary>
public sealed record LookDraft
{
    /// <summary>The accent colour, as <c>#rrggbb</c>.</summary>
    public string? Accent { get; init; }

    /// <summary>The colour behind the panel by day.</summary>
    public string? Background { get; init; }

    /// <summary>A second colour behind the panel.</summary>
    public string? Sky { get; init; }

    /// <summary>The colour behind the panel by night.</summary>
    public string? Night { get; init; }

    /// <summary><c>light</c>, <c>dark</c> or <c>auto</c>.</summary>
    public string? Theme { get; init; }

    /// <summary><c>middle</c>, <c>start</c> or <c>end</c>.</summary>
    public string? Place { get; init; }

    /// <summary><c>serif</c>, <c>sans</c>, <c>device</c> or <c>site</c>.</summary>
    public string? Type { get; init; }

    /// <summary>The file of the site's own typeface.</summary>
    public string? Font { get; init; }

    /// <summary>A picture at the head.</summary>
    public string? Logo { get; init; }

    /// <summary>A picture behind the panel.</summary>
    public string? Picture { get; init; }

    /// <summary>A film behind the panel.</summary>
    public string? Film { get; init; }

    /// <summary>A style of the owner's own.</summary>
    public string? Css { get; init; }

    /// <summary>The same for pages that the owner wrote.</summary>
    public string? HostedCss { get; init; }

    /// <summary>Links of the head.</summary>
    public IReadOnlyList<SiteLink>? Links { get; init; }

    /// <summary>The draft that says what a look says.</summary>
    public static LookDraft Of(SiteLook look) => new()
    {
        Accent = look.Accent, Background = look.Background, Sky = look.Sky, Night = look.Night, Theme = NameOf(look.Theme), Place = NameOf(look.Place),
        Type = NameOf(look.Type), Font = look.Font, Logo = look.Logo, Picture = look.Picture, Film = look.Film, Css = look.Css,
        HostedCss = look.HostedCss,
        Links = look.Links.Count == 0 ? null : look.Links,
    };

    /// <summary>The look, and what is written over it; a name that is none is refused where it is stored.</summary>
    public SiteLook Over(SiteLook old) => old with
    {
        Accent = Accent?.Trim() ?? old.Accent,
        Background = Background?.Trim() ?? old.Background,
        Sky = Said(Sky, old.Sky),
        Night = Said(Night, old.Night),
        Theme = Theme is null ? old.Theme : Named<PageTheme>(Theme),
        Place = Place is null ? old.Place : Named<PanelPlace>(Place),
        Type = Type is null ? old.Type : Named<PageType>(Type),
        Font = Said(Font, old.Font),
        Logo = Said(Logo, old.Logo),
        Picture = Said(Picture, old.Picture),
        Film = Said(Film, old.Film),
        Css = Said(Css?.ReplaceLineEndings("\n"), old.Css),
        HostedCss = Said(HostedCss?.ReplaceLineEndings("\n"), old.HostedCss),
        Links = Links ?? old.Links,
    };

    /// <summary>The value of a name; one that is none, and is refused, where there is no such.</summary>
    public static T Named<T>(string name)
        where T : struct, Enum => name.All(char.IsAsciiLetter) && Enum.TryParse<T>(name, true, out var value) ? value : (T)Enum.ToObject(typeof(T), -1);

    private static string NameOf<T>(T value)
        where T : struct, Enum => value.ToString().ToLowerInvariant();

    private static string? Said(string? said, string? old) => said is null ? old : string.IsNullOrWhiteSpace(said) ? null : said.Trim();
}

/// <summary>What the site is called and how it is read, as people write it; what is null stays as it is.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="Language">Its language (RFC 5646 tag).</param>
/// <param name="Languages">The languages that its pages are offered in.</param>
/// <param name="TimeZone">Its time zone (IANA name).</param>
/// <param name="Page">The page of the site in which ours stand; empty to have them stand alone.</param>
/// <param name="Element">The element of that page.</param>
public sealed record SiteDraft(
    string? Name = null, string? Language = null, IReadOnlyList<string>? Languages = null, string? TimeZone = null, string? Page = null, string? Element = null)
{
    /// <summary>The draft that says what settings say.</summary>
    public static SiteDraft Of(SiteSettings of) => new(
        of.SiteName, of.Language, of.Languages.Count == 0 ? null : of.Languages, of.TimeZone, of.Frame?.Page, of.Frame?.Element);

    /// <summary>The settings, and what is written over them.</summary>
    public SiteSettings Over(SiteSettings old) => old with
    {
        SiteName = Name?.Trim() ?? old.SiteName,
        Language = Language?.Trim() ?? old.Language,
        Languages = Languages ?? old.Languages,
        TimeZone = TimeZone?.Trim() ?? old.TimeZone,
        Frame = Page is null ? old.Frame : Page.Trim() is { Length: > 0 } page
            ? new SitePlace(page, string.IsNullOrWhiteSpace(Element) ? "main" : Element.Trim()) : null,
    };

    /// <summary>The name here of a field of the settings.</summary>
    public static string FieldOf(string setting) => setting switch
    {
        "siteName" => "name",
        "frame.page" => "page",
        "frame.element" => "element",
        _ => setting,
    };
}
