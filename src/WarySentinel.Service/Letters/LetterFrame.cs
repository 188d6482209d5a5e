using System.Text.Encodings.Web;
using WarySentinel.Core.Access;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Letters;

/// <summary>Puts a letter into the site's frame: tables and styles on the elements themselves, as mail programs want them, and colours for the dark.</summary>
public static class LetterFrame
{
    private static readonly string[] Halves = Read().Split("{{ said }}");

    /// <summary>The whole document.</summary>
    /// <param name="subject">The subject line.</param>
    /// <param name="said">What is said, as HTML.</param>
    /// <param name="language">The language that it is said in.</param>
    /// <param name="settings">The site's name and colours.</param>
    /// <param name="address">The address of the site.</param>
    public static string Dress(string subject, string said, string language, SiteSettings settings, string address)
    {
        var html = HtmlEncoder.Default;
        string In(string part) => part
            .Replace("{{ language }}", html.Encode(language), StringComparison.Ordinal)
            .Replace("{{ direction }}", Core.SiteCulture.Of(language).TextInfo.IsRightToLeft ? "rtl" : "ltr", StringComparison.Ordinal)
            .Replace("{{ ground }}", settings.Look.Background, StringComparison.Ordinal)
            .Replace("{{ accent }}", settings.Look.Accent, StringComparison.Ordinal)
            .Replace("{{ on_accent }}", Contrast.BestOn(settings.Look.Accent, "#ffffff", "#17130a"), StringComparison.Ordinal)
            .Replace("{{ site.url }}", html.Encode(address), StringComparison.Ordinal)
            .Replace("{{ site.name }}", html.Encode(settings.SiteName), StringComparison.Ordinal)
            .Replace("{{ subject }}", html.Encode(subject), StringComparison.Ordinal);
        // What people wrote stands between the halves: nothing in it is taken for a place of the frame.
        var page = In(Halves[0]) + said + In(Halves[1]);
        return PreMailer.Net.PreMailer.MoveCssInline(page, true, ignoreElements: "#dark", stripIdAndClassAttributes: false).Html;
    }

    private static string Read()
    {
        using var stream = typeof(PageWords).Assembly.GetManifestResourceStream("WarySentinel.Service.Letters.frame.html")
            ?? throw new InvalidOperationException("The resource frame.html is missing from the build.");
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}
