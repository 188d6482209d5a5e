using System.Text;
using System.Text.Encodings.Web;
using System.Text.Unicode;

namespace WarySentinel.Core.Markup;

/// <summary>
/// The places of a page of the site at which something of ours is put into it: what stands in one element goes, and what is ours stands there; the rest stays,
/// byte for byte. Reads what browsers read (HTML §13.2.5), of bytes in UTF-8.
/// </summary>
public sealed class PageSeam
{
    private static readonly string[] Raw = ["script", "style", "textarea", "title", "xmp", "iframe", "noembed", "noframes", "noscript"];
    private static readonly string[] Void =
        ["area", "base", "br", "col", "embed", "hr", "img", "input", "link", "meta", "source", "track", "wbr", "html", "head", "title", "script", "style"];

    private static readonly System.Buffers.SearchValues<byte> EndsName = System.Buffers.SearchValues.Create(" \t\n\r\f/>"u8);

    private static readonly HtmlEncoder Encoder = HtmlEncoder.Create(UnicodeRanges.All);

    private int head = -1;
    private (int From, int To) title = (-1, -1);
    private bool hasBase;
    private (int From, int To) inside = (-1, -1);

    private PageSeam()
    {
    }

    /// <summary>Finds the first element of that name and the places around it; null where the page has none, or it does not end.</summary>
    public static PageSeam? Find(ReadOnlySpan<byte> page, string element)
    {
        var (seam, at, depth, name) = (new PageSeam(), 0, 0, "");
        while (at < page.Length && page[at..].IndexOf((byte)'<') is >= 0 and var open)
        {
            at += open;
            var rest = page[at..];
            if (rest.Length < 2)
            {
                break;
            }

            if (rest[1] is (byte)'!' or (byte)'?')
            {
                var end = MarkupScan.EndOfDeclaration(rest, false);
                at = end == 0 ? page.Length : at + end;
                continue;
            }

            var ends = rest[1] == '/';
            var length = NameIn(rest[(ends ? 2 : 1)..]);
            if (length == 0)
            {
                at++;
                continue;
            }

            var tag = Encoding.ASCII.GetString(rest.Slice(ends ? 2 : 1, length)).ToLowerInvariant();
            var reader = new TagReader(rest, (ends ? 2 : 1) + length);
            var isIt = Reads(ref reader, tag, element) && !ends && depth == 0 && seam.inside.From < 0;
            if (reader.End < 0)
            {
                break;
            }

            var after = at + reader.End;
            if (depth > 0 && tag == name)
            {
                depth += ends ? -1 : 1;
                if (depth == 0)
                {
                    seam.inside.To = at;
                }
            }
            else if (isIt)
            {
                (name, depth, seam.inside.From) = (tag, 1, after);
            }

            at = ends ? after : seam.Pass(page, tag, after);
        }

        return seam.inside.To >= 0 ? seam : null;
    }

    /// <summary>The page with something else in the element.</summary>
    /// <param name="page">The page in which it was found.</param>
    /// <param name="content">What stands there, as HTML.</param>
    /// <param name="named">The title of the page.</param>
    /// <param name="address">Where the page was asked for: what it names by relative addresses is found from there.</param>
    /// <param name="heads">What stands at the end of its head, as HTML.</param>
    public byte[] With(ReadOnlySpan<byte> page, string content, string named, string address, string heads)
    {
        using var made = new MemoryStream(page.Length + content.Length + 1024);
        var (at, atHead) = (0, head >= 0 && head <= inside.From ? head : -1);
        if (atHead >= 0)
        {
            made.Write(page[..atHead]);
            made.Write(Encoding.UTF8.GetBytes((hasBase ? "" : $"<base href=\"{E(address)}\">") + heads));
            at = atHead;
        }

        if (title.From >= at && title.To <= inside.From)
        {
            made.Write(page[at..title.From]);
            made.Write(Encoding.UTF8.GetBytes(E(named)));
            at = title.To;
        }

        made.Write(page[at..inside.From]);
        made.Write(Encoding.UTF8.GetBytes((atHead >= 0 ? "" : heads) + content));
        made.Write(page[inside.To..]);
        return made.ToArray();
    }

    private static string E(string text) => Encoder.Encode(text);

    private static int NameIn(ReadOnlySpan<byte> rest) => rest.Length == 0 || !char.IsAsciiLetter((char)rest[0]) ? 0
        : rest.IndexOfAny(EndsName) is >= 0 and var end ? end : rest.Length;

    /// <summary>Reads a tag to its end; whether it is the element.</summary>
    private static bool Reads(ref TagReader reader, string tag, string element)
    {
        var isIt = element[0] is not ('#' or '.') && string.Equals(tag, element, StringComparison.OrdinalIgnoreCase);
        while (reader.Next(out var name, out var value))
        {
            var said = Encoding.UTF8.GetString(value);
            isIt |= element[0] == '#' && Ascii.EqualsIgnoreCase(name, "id"u8) && said == element[1..];
            isIt |= element[0] == '.' && Ascii.EqualsIgnoreCase(name, "class"u8)
                && said.Split((char[])[' ', '\t', '\n', '\r', '\f'], StringSplitOptions.RemoveEmptyEntries).Contains(element[1..]);
        }

        return isIt && !Void.Contains(tag);
    }

    /// <summary>Notes what a start tag is, and gives where reading goes on: behind the text of those whose text is no markup.</summary>
    private int Pass(ReadOnlySpan<byte> page, string tag, int after)
    {
        if (tag == "head" && head < 0)
        {
            head = after;
        }

        hasBase |= tag == "base";
        if (!Raw.Contains(tag))
        {
            return after;
        }

        var state = MarkupScan.ScriptState.Plain;
        var end = MarkupScan.EndOfRaw(page[after..], tag, ref state, out _);
        if (tag == "title" && title.From < 0 && end >= 0)
        {
            title = (after, after + end);
        }

        return end < 0 ? page.Length : after + end;
    }
}
