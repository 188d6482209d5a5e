using System.Text;
using WarySentinel.Core.Access;

namespace WarySentinel.Service.Pages;

/// <summary>
/// The style of our pages where they stand within one of the site: the same rules, nested in the element that holds ours (CSS Nesting Module), so that
/// they touch
/// nothing of the site's; colours and letters of the look.
/// </summary>
internal static class FramedStyle
{
    // What the site says of elements and classes ends at ours; drawings keep what they say themselves.
    private const string Plain = ".wary-frame.wary-frame *:not(svg,svg *){all:revert;box-sizing:border-box}\n";

    private static readonly Lazy<string> Nested = new(() => Nest(Read("account.css")) + Nest(Read("hosted.css")));

    /// <summary>The style sheet for a look.</summary>
    public static string Of(SiteLook look)
    {
        var (day, night) = (PageColours.ByDay(look), PageColours.ByNight(look));
        var own = look is { Type: PageType.Site, Font: { } font }
            ? FontFace(font) + ".wary-frame.wary-frame{--ui:\"Site\",system-ui,sans-serif;--read:\"Site\",system-ui,sans-serif}\n" : "";
        return own + Plain + Nested.Value + $$"""
            .wary-frame.wary-frame{--accent-day:{{day.Accent}};--ground-day:var(--sheet);--sky-day:var(--sheet);--on-day:var(--ink);
            --accent-night:{{night.Accent}};
            --ground-night:var(--sheet);--sky-night:var(--sheet);--on-night:var(--ink);min-height:0;background:none;color:var(--ink);padding:1px 0}
            .wary-frame.wary-frame .panel{margin-block:24px}
            .wary-frame.wary-frame .tongues{color:var(--soft);margin:18px 0 0;width:auto;text-align:start}
            .wary-frame.wary-frame .book{margin:0;width:auto}
            .wary-frame.hosted{padding:1px clamp(16px,3vw,36px);border-radius:14px;background:var(--sheet)}

            """ + Own(look.Css, StyleScope.PanelWithin) + Own(look.HostedCss, StyleScope.HostedWithin);
    }

    /// <summary>The rule that names the site's own typeface. Its address can stand in a style sheet as it is: others are refused when they are set.</summary>
    internal static string FontFace(string font) => $"@font-face{{font-family:\"Site\";src:url('{font}');font-weight:100 900;font-display:swap}}\n";

    private static string Own(string? css, StyleScope scope) => css is null ? "" : OwnStyle.Of(css, scope) + "\n";

    /// <summary>Wraps rules of ours, one on each line, into the element that holds ours; what stands for the whole page stands for that element.</summary>
    private static string Nest(string css)
    {
        var (apart, nested) = (new StringBuilder(), new StringBuilder());
        foreach (var line in css.Split('\n', StringSplitOptions.RemoveEmptyEntries))
        {
            if (line.StartsWith("@font-face", StringComparison.Ordinal))
            {
                apart.Append(line.Replace("url(", "url(assets/", StringComparison.Ordinal)).Append('\n');
            }
            else
            {
                nested.Append(Own(line)).Append('\n');
            }
        }

        return $"{apart}.wary-frame.wary-frame{{\n{nested}}}\n";
    }

    private static string Own(string rule)
    {
        foreach (var (whole, here) in new[] { (":root{", "&{"), ("body[", "&["), ("body{", "&{"), (".hosted{", "&.hosted{"), (".hosted>", "&.hosted>") })
        {
            rule = rule.StartsWith(whole, StringComparison.Ordinal) ? here + rule[whole.Length..]
                : rule.Replace("){" + whole, "){" + here, StringComparison.Ordinal);
        }

        return rule;
    }

    private static string Read(string name)
    {
        using var stream = typeof(FramedStyle).Assembly.GetManifestResourceStream("WarySentinel.Service.Assets." + name)!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}
