using System.Globalization;
using System.Text.RegularExpressions;
using AngleSharp;
using AngleSharp.Css;
using AngleSharp.Css.Dom;
using AngleSharp.Dom;

namespace WarySentinel.Core.Access;

/// <summary>A colour of a page of the site, and where it stands there.</summary>
/// <param name="Where"><c>header</c>, <c>page</c>, <c>button</c>, <c>link</c>, <c>heading</c> or <c>theme</c>.</param>
/// <param name="Colour">The colour, as <c>#rrggbb</c>.</param>
public sealed record FoundColour(string Where, string Colour);

/// <summary>What was found of the look of the site's own pages.</summary>
/// <param name="Colours">Its colours, those that mean most first.</param>
/// <param name="Logo">The address of its logo; null where none was found.</param>
/// <param name="Typefaces">The typefaces that it names, those of the text first.</param>
/// <param name="Fonts">The addresses on the site of their files.</param>
public sealed record FoundLook(
    IReadOnlyList<FoundColour> Colours, string? Logo, IReadOnlyList<string> Typefaces, IReadOnlyList<string> Fonts);

/// <summary>
/// Finds what the site's own pages look like: by what its styles come to for its header, its text, its buttons and its links (CSS Cascading and
/// Inheritance), not by
/// what stands in them most often.
/// </summary>
public static partial class LookFinder
{
    /// <summary>Most style sheets that are read.</summary>
    public const int MostSheets = 12;

    private const int Grey = 24;
    private static readonly DefaultRenderDevice Screen = new() { DeviceWidth = 1280, DeviceHeight = 800, ViewPortWidth = 1280, ViewPortHeight = 800 };
    private const int MostDepth = 6;

    private static readonly (string Where, string Property, string[] Selectors)[] Places =
    [
        ("header", "background-color", ["body > header", "header", "[role=banner]", "#header", ".header", "nav"]),
        ("page", "background-color", ["body", "html"]),
        ("button", "background-color", ["main button", ".btn-primary", ".button", ".btn", "button", "input[type=submit]", "a[role=button]"]),
        ("link", "color", ["main p a:not([class])", "main a:not([class])", "article a:not([class])", "p a:not([class])", "a:not([class])", "a"]),
        ("heading", "color", ["main h1", "h1", "main h2", "h2"]),
    ];

    /// <summary>The addresses of the style sheets of a page, in their order.</summary>
    /// <param name="html">The page.</param>
    /// <param name="page">Where it stands.</param>
    public static IReadOnlyList<Uri> SheetsOf(string html, Uri page)
    {
        using var document = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(html);
        return
        [
            .. document.QuerySelectorAll("link[rel~=stylesheet][href]").Where(l => l.GetAttribute("media") is not "print")
                .Select(l => Uri.TryCreate(page, l.GetAttribute("href"), out var at) ? at : null).OfType<Uri>()
                .Where(at => at.Authority == page.Authority).Distinct().Take(MostSheets),
        ];
    }

    /// <summary>What a page looks like.</summary>
    /// <param name="html">The page.</param>
    /// <param name="page">Where it stands.</param>
    /// <param name="sheets">Its style sheets, with where each stands.</param>
    public static async Task<FoundLook> FindAsync(string html, Uri page, IReadOnlyList<(Uri At, string Css)> sheets)
    {
        var context = BrowsingContext.New(Configuration.Default.WithCss().WithRenderDevice(Screen));
        using var document = await context.OpenAsync(answer => answer.Content(html).Address(page));
        var own = document.QuerySelectorAll("style").Select(s => s.TextContent).ToList();
        foreach (var (_, css) in sheets)
        {
            var style = document.CreateElement("style");
            style.TextContent = css;
            document.Head?.InsertBefore(style, document.Head.QuerySelector("style"));
        }

        var variables = Variables([.. sheets.Select(s => s.Css), .. own]);
        var colours = Places.Select(p => ColourOf(document, p.Property, p.Selectors, variables) is { } colour ? new FoundColour(p.Where, colour) : null)
            .OfType<FoundColour>().ToList();
        if (Hex(document.QuerySelector("meta[name=theme-color]")?.GetAttribute("content"), variables) is { } theme)
        {
            colours.Add(new FoundColour("theme", theme));
        }

        return new FoundLook(colours, LogoOf(document, page), TypefacesOf(document, variables), FontsOf(page, sheets, own));
    }

    /// <summary>A look made of what was found: colours that could hardly be read are moved to the nearest that can.</summary>
    /// <param name="found">What was found.</param>
    /// <param name="old">The look as it is; what was not found stays.</param>
    public static SiteLook Over(FoundLook found, SiteLook old)
    {
        string? Of(params string[] places) => places.Select(w => found.Colours.FirstOrDefault(c => c.Where == w)?.Colour).FirstOrDefault(c => c is not null);
        // The liveliest of what can be pressed, else of the rest.
        var lively = found.Colours.Where(c => c.Where is not ("header" or "page") && Liveliness(c.Colour) >= Grey)
            .OrderBy(c => c.Where is "button" or "link" ? 0 : 1).ThenByDescending(c => Liveliness(c.Colour)).Select(c => c.Colour).FirstOrDefault();
        var look = old with
        {
            Background = Of("header", "theme", "page") ?? old.Background,
            Sky = null,
            Night = null,
            Accent = lively ?? old.Accent,
            Logo = found.Logo
                ?? old.Logo,
            Type = found.Fonts.Count > 0 ? PageType.Site : found.Typefaces.Count > 0 ? (IsSerif(found.Typefaces[0]) ? PageType.Serif : PageType.Sans)
                : old.Type,
            Font = found.Fonts.Count > 0 ? found.Fonts[0] : null,
        };
        for (var tries = 0; tries < Places.Length && PageColours.Unreadable(look).FirstOrDefault() is { Field: { } field, Nearest: { } nearest }; tries++)
        {
            look = field switch
            {
                "look.accent" => look with { Accent = nearest },
                "look.background" => look with { Background = nearest },
                _ => look with { Sky = null, Night = null },
            };
        }

        return look;
    }

    private static string? ColourOf(IDocument document, string property, string[] selectors, IReadOnlyDictionary<string, string> variables)
    {
        foreach (var element in selectors.Select(s => document.QuerySelector(s)).OfType<IElement>())
        {
            var said = Computed(element, property);
            if (Hex(said, variables) is { } colour)
            {
                return colour;
            }

            // A ground may be a play of colours: the first of them.
            if (property == "background-color" && Written().Match(Resolved(Computed(element, "background-image"), variables)) is { Success: true } drawn
                && Hex(drawn.Value, variables) is { } first)
            {
                return first;
            }
        }

        return null;
    }

    /// <summary>What a property comes to; empty where the styles say what cannot be worked out.</summary>
    private static string Computed(IElement element, string property)
    {
        try
        {
            return element.ComputeCurrentStyle().GetPropertyValue(property);
        }
        catch (Exception fault) when (fault is ArgumentException or InvalidOperationException or FormatException or OverflowException or NotSupportedException
            or NullReferenceException or IndexOutOfRangeException or InvalidCastException)
        {
            // Whatever a site wrote into its styles: a look is a wish, and no reason to fail.
            return "";
        }
    }

    private static string? LogoOf(IDocument document, Uri page)
    {
        var picture = document.QuerySelectorAll("header img[src], [role=banner] img[src], nav img[src], a[href='/'] img[src], img[src*=logo i]")
            .Select(i => i.GetAttribute("src")).FirstOrDefault()
            ?? document.QuerySelector("link[rel~=icon][href$='.svg'], link[rel~=apple-touch-icon][href]")?.GetAttribute("href");
        return OnSite(picture, page);
    }

    private static List<string> TypefacesOf(IDocument document, IReadOnlyDictionary<string, string> variables) =>
    [
        .. new[] { "body", "h1" }.Select(s => document.QuerySelector(s)).OfType<IElement>()
            .Select(e => Resolved(Computed(e, "font-family"), variables).Split(',')[0].Trim(' ', '"', '\''))
            .Where(f => f.Length is > 0 and < 80 && !f.Contains('(', StringComparison.Ordinal)).Distinct(StringComparer.OrdinalIgnoreCase),
    ];

    private static List<string> FontsOf(Uri page, IReadOnlyList<(Uri At, string Css)> sheets, IReadOnlyList<string> own) =>
    [
        .. sheets.Concat(own.Select(css => (page, css))).SelectMany(s => FontFace().Matches(s.Item2).SelectMany(face => Source().Matches(face.Value))
            .Select(m => Uri.TryCreate(s.Item1, m.Groups[1].Value, out var at) ? OnSite(at.ToString(), page) : null)).OfType<string>()
            .Where(f => SiteLook.IsFont(f)).Distinct().Take(8),
    ];

    /// <summary>An address on the same site, as it stands there; null for one elsewhere, and for what is no address.</summary>
    private static string? OnSite(string? address, Uri page) =>
        address is not null && Uri.TryCreate(page, address, out var at) && at.Scheme is "http" or "https" && at.Authority == page.Authority
            && at.AbsolutePath.Length is > 1 and < 400 ? at.AbsolutePath : null;

    private static Dictionary<string, string> Variables(IEnumerable<string> sheets)
    {
        var found = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (Match match in sheets.SelectMany(s => Variable().Matches(s)))
        {
            found.TryAdd(match.Groups[1].Value, match.Groups[2].Value.Trim());
        }

        return found;
    }

    private static string Resolved(string? said, IReadOnlyDictionary<string, string> variables)
    {
        var value = said ?? "";
        for (var depth = 0; depth < MostDepth && value.Contains("var(", StringComparison.Ordinal); depth++)
        {
            value = Use().Replace(value, m => variables.GetValueOrDefault(m.Groups[1].Value) ?? m.Groups[2].Value.TrimStart(','));
        }

        return value;
    }

    /// <summary>A colour as <c>#rrggbb</c>; null for what is none, and for one that lets through most of what is behind it.</summary>
    private static string? Hex(string? said, IReadOnlyDictionary<string, string> variables)
    {
        var value = Resolved(said, variables).Trim().ToLowerInvariant();
        if (value.Length == 0)
        {
            return null;
        }

        if (value[0] == '#' && value.Length is 4 or 7 && value.Skip(1).All(char.IsAsciiHexDigit))
        {
            return value.Length == 7 ? value : "#" + string.Concat(value.Skip(1).Select(c => $"{c}{c}"));
        }

        if (Rgb().Match(value) is not { Success: true } rgb)
        {
            return Named.GetValueOrDefault(value);
        }

        var alpha = rgb.Groups[4].Success ? double.Parse(rgb.Groups[4].Value, CultureInfo.InvariantCulture) : 1;
        return alpha < 0.6 ? null : "#" + string.Concat(Enumerable.Range(1, 3).Select(n =>
            Math.Min(255, int.Parse(rgb.Groups[n].Value, CultureInfo.InvariantCulture)).ToString("x2", CultureInfo.InvariantCulture)));
    }

    private static readonly Dictionary<string, string> Named = new(StringComparer.Ordinal)
    {
        ["white"] = "#ffffff", ["black"] = "#000000",
        ["navy"] = "#000080"
    };

    /// <summary>How far a colour is from grey, from 0 to 255.</summary>
    private static int Liveliness(string colour)
    {
        var parts = Enumerable.Range(0, 3).Select(n => int.Parse(colour.AsSpan(1 + (n * 2), 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture)).ToList();
        return parts.Max() - parts.Min();
    }

    private static bool IsSerif(string family) => family.Contains("serif", StringComparison.OrdinalIgnoreCase)
        && !family.Contains("sans", StringComparison.OrdinalIgnoreCase)
        || new[] { "Georgia", "Times", "Garamond", "Palatino", "Newsreader", "Merriweather" }.Any(f =>
            family.StartsWith(f, StringComparison.OrdinalIgnoreCase));

    [GeneratedRegex(@"#[0-9a-fA-F]{3}(?:[0-9a-fA-F]{3})?\b|rgba?\([^)]*\)")]
    private static partial Regex Written();

    [GeneratedRegex(@"^rgba?\(\s*(\d{1,3})[\s,]+(\d{1,3})[\s,]+(\d{1,3})(?:\s*[,/]\s*([0-9.]+))?\s*\)$")]
    private static partial Regex Rgb();

    [GeneratedRegex(@"(--[\w-]{1,60})\s*:\s*([^;{}]{1,200})")]
    private static partial Regex Variable();

    [GeneratedRegex(@"var\(\s*(--[\w-]{1,60})\s*(,[^()]*)?\)")]
    private static partial Regex Use();

    [GeneratedRegex(@"@font-face\s*\{[^}]{1,2000}\}")]
    private static partial Regex FontFace();

    [GeneratedRegex(@"url\(\s*[""']?([^""')\s]{1,400})")]
    private static partial Regex Source();
}
