using System.Globalization;
using System.Net;
using System.Text;

namespace WarySentinel.Core.Sweep;

/// <summary>What is read in an answer: pages without their tags, strings of scripts as they are meant.</summary>
public static class ReadText
{
    private const string Parting = "\uE0F5";

    // Of a guarded page no secret: its headings may be listed, and a link is told where it leads.
    private static readonly HashSet<string> Unread = new(StringComparer.OrdinalIgnoreCase) { "title", "h1", "a" };

    private static readonly HashSet<string> Inline = new(StringComparer.OrdinalIgnoreCase)
    {
        "", "abbr", "b", "bdi", "bdo", "cite", "code", "data", "del", "dfn", "em", "font", "i", "img", "ins", "kbd", "label", "mark", "q", "s", "samp", "small",
        "span", "strong", "sub", "sup", "time", "tt", "u", "var", "wbr", "a",
    };

    /// <summary>A page without its tags and comments, and unless said without what scripts and styles hold.</summary>
    public static string Plain(string text, bool scripts = false)
    {
        if (!text.Contains('<', StringComparison.Ordinal))
        {
            return Named(text);
        }

        var (kept, ends) = (new StringBuilder(text.Length), new EndTags(text));
        for (var at = 0; at < text.Length;)
        {
            var tag = text.IndexOf('<', at);
            if (tag < 0 || tag + 1 >= text.Length)
            {
                kept.Append(text, at, text.Length - at);
                break;
            }

            kept.Append(text, at, tag - at);
            if (!char.IsAsciiLetter(text[tag + 1]) && text[tag + 1] is not ('/' or '!' or '?'))
            {
                kept.Append('<');
                at = tag + 1;
                continue;
            }

            // What a comment says is read too: only its signs go.
            var isComment = text.AsSpan(tag).StartsWith("<!--", StringComparison.Ordinal);
            var end = isComment ? tag + 3 : text.IndexOf('>', tag);
            at = end < 0 ? text.Length : end + 1;
            if (!scripts)
            {
                foreach (var raw in (ReadOnlySpan<string>)["script", "style", "nav", "header", "footer"])
                {
                    if (text.AsSpan(tag + 1).StartsWith(raw, StringComparison.OrdinalIgnoreCase) && tag + 1 + raw.Length < text.Length
                        && !char.IsAsciiLetterOrDigit(text[tag + 1 + raw.Length]))
                    {
                        var over = ends.After(raw, at);
                        at = over < 0 ? at : over;
                        break;
                    }
                }
            }

            // A tag parts words, unless it formats some letters of one; the words of a page are not that fine.
            kept.Append(' ');
        }

        return Named(kept.ToString());
    }

    /// <summary>
    /// What a page says, part for part: its paragraphs, lines of lists and cells, without headings and links; the lines of a text that is no page.
    /// </summary>
    public static IEnumerable<string> Blocks(string page)
    {
        if (!page.Contains('<', StringComparison.Ordinal))
        {
            return page.Split('\n');
        }

        var (parted, ends) = (new StringBuilder(page.Length), new EndTags(page));
        for (var at = 0; at < page.Length;)
        {
            var tag = page.IndexOf('<', at);
            tag = tag < 0 ? page.Length : tag;
            parted.Append(page, at, tag - at);
            var (name, isEnd) = NameAt(page, tag);
            var over = !isEnd && Unread.Contains(name) ? ends.After(name, tag) : -1;
            // A sign that nothing else uses stands where one part ends.
            parted.Append(Inline.Contains(name) ? "" : Parting);
            at = over > 0 ? over : Math.Min(page.Length, tag + 1);
            parted.Append(over < 0 && tag < page.Length ? "<" : "");
        }

        return Plain(parted.ToString()).Split(Parting);
    }

    private static (string Name, bool IsEnd) NameAt(string page, int tag)
    {
        var isEnd = tag + 1 < page.Length && page[tag + 1] == '/';
        var start = tag + (isEnd ? 2 : 1);
        var end = start;
        while (end < page.Length && char.IsAsciiLetterOrDigit(page[end]))
        {
            end++;
        }

        return (start < end ? page[start..end] : "", isEnd);
    }

    /// <summary>A text with the signs that HTML writes by name or number as what they are.</summary>
    public static string Named(string text) => text.Contains('&', StringComparison.Ordinal) ? WebUtility.HtmlDecode(text) : text;

    /// <summary>A text as it is meant where strings of scripts and JSON escape some of it.</summary>
    public static string Unescaped(string text)
    {
        if (!text.Contains('\\', StringComparison.Ordinal))
        {
            return text;
        }

        var kept = new StringBuilder(text.Length);
        for (var at = 0; at < text.Length; at++)
        {
            if (text[at] != '\\' || at + 1 >= text.Length)
            {
                kept.Append(text[at]);
                continue;
            }

            var next = text[++at];
            var digits = next switch { 'u' => 4, 'x' => 2, _ => 0 };
            if (digits > 0 && at + digits < text.Length
                && ushort.TryParse(text.AsSpan(at + 1, digits), NumberStyles.AllowHexSpecifier, null, out var sign))
            {
                kept.Append((char)sign);
                at += digits;
                continue;
            }

            kept.Append(next is 'n' or 'r' or 't' or 'b' or 'f' ? ' ' : next);
        }

        var plain = kept.ToString();
        // Strings hold pages at times.
        return plain.Contains('<', StringComparison.Ordinal) ? Plain(plain, true) : plain;
    }
}
