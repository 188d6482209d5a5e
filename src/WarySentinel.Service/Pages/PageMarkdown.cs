using System.Globalization;
using Markdig;
using Markdig.Renderers;
using Markdig.Renderers.Html;
using Markdig.Syntax;
using Markdig.Syntax.Inlines;

namespace WarySentinel.Service.Pages;

/// <summary>
/// Markdown (CommonMark, with tables) as it stands on a page: no markup of its own, and no link that runs a script. Headings begin below those of the page.
/// </summary>
public static class PageMarkdown
{
    private static readonly MarkdownPipeline Pipeline = new MarkdownPipelineBuilder().DisableHtml().UsePipeTables().UseAutoLinks().Build();
    private static readonly string[] Schemes = ["http", "https", "mailto", "tel"];

    /// <summary>The HTML of a text. Takes a time that grows with the text; nested deeper than sixty-four it stands as it was typed.</summary>
    public static string HtmlOf(string text) => HtmlOf(text, Pipeline, null, null);

    /// <summary>The same with what else a pipeline knows.</summary>
    /// <param name="text">The text.</param>
    /// <param name="pipeline">How it is read; it must let no HTML pass.</param>
    /// <param name="leads">Where a link or picture leads that is no address as it is; null to leave it as it is.</param>
    /// <param name="size">How large a picture is, in pixels; null where nobody knows.</param>
    internal static string HtmlOf(
        string text, MarkdownPipeline pipeline, Func<string, string?>? leads, Func<string, (int Width, int Height)?>? size)
    {
        MarkdownDocument document;
        try
        {
            document = Markdown.Parse(text, pipeline);
        }
        catch (ArgumentException)
        {
            return "<pre>" + System.Net.WebUtility.HtmlEncode(text) + "</pre>";
        }

        // Where a text has headings of the first level it does not count the page's own; elsewhere it does, unless the page has more above it.
        var deeper = leads is null || document.Descendants<HeadingBlock>().Any(h => h.Level == 1) ? 1 : 0;
        foreach (var heading in document.Descendants<HeadingBlock>())
        {
            heading.Level = Math.Min(6, heading.Level + deeper);
        }

        foreach (var link in document.Descendants<LinkInline>())
        {
            if (link.IsImage && size?.Invoke(link.Url ?? "") is var (width, height))
            {
                // The page keeps its place while the picture is on its way.
                link.GetAttributes().AddPropertyIfNotExist("width", width.ToString(CultureInfo.InvariantCulture));
                link.GetAttributes().AddPropertyIfNotExist("height", height.ToString(CultureInfo.InvariantCulture));
            }

            link.Url = leads?.Invoke(link.Url ?? "") ?? (IsSafe(link.Url) ? link.Url : "#");
        }

        foreach (var link in document.Descendants<AutolinkInline>().Where(l => !l.IsEmail && !IsSafe(l.Url)))
        {
            link.Url = "#";
        }

        using var writer = new StringWriter();
        var renderer = new HtmlRenderer(writer);
        pipeline.Setup(renderer);
        renderer.Render(document);
        return writer.ToString();
    }

    /// <summary>Whether a link leads to a page, a mailbox or a telephone, as browsers read it (WHATWG URL §4.4: tabs and line ends in it do not
    /// count).</summary>
    private static bool IsSafe(string? url)
    {
        var read = new string([.. (url ?? "").Where(c => c > ' ' && c != '\u007f')]);
        var end = read.IndexOfAny(['/', '?', '#', ':']);
        return end < 0 || read[end] != ':' || Schemes.Contains(read[..end], StringComparer.OrdinalIgnoreCase);
    }
}
