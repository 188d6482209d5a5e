using System.Globalization;
using System.Net;
using System.Text;

namespace WarySentinel.Core.Sweep;

/// <summary>What is read in an answer: pages without their tags, strings of scripts as they are meant.</summary>
public static class ReadText
{
    /// <summary>A page without its tags and comments, and unless said without what scripts and styles hold.</summary>
    public static string Plain(string text, bool scripts = false)
    {
        if (!text.Contains('<', StringComparison.Ordinal))
        {
            return Named(text);
        }

        var kept = new StringBuilder(text.Length);
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
                        var over = text.IndexOf("</" + raw, at, StringComparison.OrdinalIgnoreCase);
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
