namespace WarySentinel.Core.Markup;

/// <summary>Hidden links in lines of text: what becomes of their words, and of what parts them from others.</summary>
internal sealed partial class HtmlFilter
{
    private void BeginRun()
    {
        if (!isInRun && !IsMuted)
        {
            isInRun = true;
            isInWord = false;
            run.Begin(Held.End);
        }
    }

    /// <summary>A line of text ends: a block begins or ends.</summary>
    private void Boundary()
    {
        if (hidden is not null)
        {
            // A block stands in a link: the link is a card.
            hidden.IsCard = true;
            run.Links.Remove(hidden);
        }

        if (!isInRun)
        {
            return;
        }

        isInRun = false;
        if (run.IsProse)
        {
            open.Entry?.HasProse = true;
        }

        var from = run.Start;
        foreach (var link in run.Links)
        {
            from = LeaveOut(link, from);
        }

        run.Links.Clear();
    }

    private void EndLink(HiddenLink link, ReadOnlySpan<byte> tag)
    {
        link.EndFrom = Held.End;
        Put(tag);
        link.EndTo = Held.End;
        hidden = ReferenceEquals(hidden, link) ? null : hidden;
        if (link.IsSettled)
        {
            return;
        }

        if (link.IsCard)
        {
            link.IsSettled = true;
            Held.Replace(link.From, link.EndTo);
            isInRun = false;
        }
        else if (run.IsRunning)
        {
            KeepWords(link);
            run.Links.Remove(link);
        }
    }

    /// <summary>A hidden link in running text.</summary>
    private void KeepWords(HiddenLink link)
    {
        if (link.IsSettled || link.EndFrom < 0)
        {
            return;
        }

        link.IsSettled = true;
        if (!Decider.KeepsHiddenWords)
        {
            Held.Replace(link.From, link.EndTo, Encoding.GetBytes(Encoding.IsSingleByte ? "..." : "\u2026"));
            return;
        }

        Held.Replace(link.From, link.To);
        Held.Replace(link.EndFrom, link.EndTo, Decider.HiddenMark.ToArray());
    }

    /// <summary>
    /// A hidden link in a menu: it goes with what parts it from the link before, or else from the one behind. Gives where the next may look back to.
    /// </summary>
    private long LeaveOut(HiddenLink link, long from)
    {
        if (link.IsSettled || link.EndTo < 0)
        {
            return from;
        }

        link.IsSettled = true;
        var (before, after) = (Before(Held.Between(from, link.From)), After(Held.Since(link.EndTo)));
        // The break of a line parts links only where the link has the line to itself.
        var isLine = before.IsLine && after.IsLine;
        var (back, ahead) = (before.IsLine && !isLine ? 0 : before.Length, after.IsLine && !isLine ? 0 : after.Length);
        var to = link.EndTo + (back > 0 ? 0 : ahead);
        Held.Replace(link.From - back, to);
        return to;
    }

    /// <summary>What parts a link from the one before it: signs, an element that holds signs alone, or the break of a line.</summary>
    private (int Length, bool IsLine) Before(ReadOnlySpan<byte> text)
    {
        var tagEnd = text.LastIndexOf((byte)'>') + 1;
        if (Separators.AtEnd(text[tagEnd..], Encoding) is > 0 and var signs)
        {
            return (signs, false);
        }

        if (!Separators.IsBlank(text[tagEnd..], Encoding))
        {
            return (0, false);
        }

        if (tagEnd == 0)
        {
            return (0, true);
        }

        var tag = text[..tagEnd].LastIndexOf((byte)'<');
        if (tag >= 0 && TagReader.EndOfName(text, tag + 1) is var name && Is(text[(tag + 1)..name], "br"u8))
        {
            return (text.Length - tag, true);
        }

        if (tag < 0 || tag + 1 >= text.Length || text[tag + 1] != '/')
        {
            return (0, false);
        }

        var content = text[..tag].LastIndexOf((byte)'>') + 1;
        var opening = content > 0 ? text[..content].LastIndexOf((byte)'<') : -1;
        var isSigns = opening >= 0 && IsLetter(text[opening + 1]) && Separators.AtEnd(text[content..tag], Encoding) == tag - content && tag > content;
        return (isSigns ? text.Length - opening : 0, false);
    }

    /// <summary>The same behind it.</summary>
    private (int Length, bool IsLine) After(ReadOnlySpan<byte> text)
    {
        var tag = text.IndexOf((byte)'<');
        var end = tag < 0 ? text.Length : tag;
        if (Separators.AtBegin(text[..end], Encoding) is > 0 and var signs)
        {
            return (signs, false);
        }

        if (!Separators.IsBlank(text[..end], Encoding))
        {
            return (0, false);
        }

        if (tag < 0)
        {
            return (0, true);
        }

        var rest = text[tag..];
        var length = rest.Length > 2 && IsLetter(rest[1]) ? TagReader.EndOf(rest, TagReader.EndOfName(rest, 1)) : -1;
        var tagEnd = tag + length;
        if (length < 0)
        {
            return (0, false);
        }

        if (Is(text[(tag + 1)..TagReader.EndOfName(text, tag + 1)], "br"u8))
        {
            return (tagEnd, true);
        }

        var next = text[tagEnd..].IndexOf((byte)'<');
        var isSigns = next > 0 && text[(tagEnd + next)..].StartsWith("</"u8) && Separators.AtBegin(text.Slice(tagEnd, next), Encoding) == next;
        var close = isSigns ? text[(tagEnd + next)..].IndexOf((byte)'>') : -1;
        return (close >= 0 ? tagEnd + next + close + 1 : 0, false);
    }
}
