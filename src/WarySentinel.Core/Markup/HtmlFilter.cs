using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>Filters HTML: reads what browsers read of it (HTML §13.2.5).</summary>
internal sealed partial class HtmlFilter(IMarkupDecider decider, Encoding encoding, bool isXml, Taught taught) : MarkupFilter(decider, encoding)
{
    private readonly OpenElements open = new();
    private MarkupScan.ScriptState script;
    private string? rawEnd;

    private protected override int Take(ReadOnlySpan<byte> rest, bool last)
    {
        if (rawEnd is not null)
        {
            return TakeRaw(rest, last);
        }

        var tag = rest.IndexOf((byte)'<');
        if (tag != 0)
        {
            var text = tag < 0 ? rest[..(last ? rest.Length : WholeSigns(rest))] : rest[..tag];
            Text(text);
            return text.Length;
        }

        var used = Markup(rest, last);
        if (used == 0 && last)
        {
            CutOff(rest);
            return rest.Length;
        }

        return used;
    }

    private protected override bool WaitsForTag(ReadOnlySpan<byte> kept) => rawEnd is null && kept[0] == '<';

    /// <summary>How much of a text ends in whole signs: its last reference or character may go on in the next piece.</summary>
    private static int WholeSigns(ReadOnlySpan<byte> text)
    {
        var tail = text[Math.Max(0, text.Length - 12)..];
        var reference = tail.LastIndexOf((byte)'&');
        if (reference >= 0 && tail[reference..].IndexOf((byte)';') < 0)
        {
            return text.Length - tail.Length + reference;
        }

        for (var back = 1; back <= Math.Min(3, text.Length); back++)
        {
            var lead = text[^back];
            if (lead >= 0xC0)
            {
                return (lead >= 0xF0 ? 4 : lead >= 0xE0 ? 3 : 2) > back ? text.Length - back : text.Length;
            }

            if (lead < 0x80)
            {
                break;
            }
        }

        return text.Length;
    }

    private int TakeRaw(ReadOnlySpan<byte> rest, bool last)
    {
        var end = MarkupScan.EndOfRaw(rest, rawEnd!, ref script, out var safe);
        var text = end >= 0 ? end : last ? rest.Length : safe;
        Put(rest[..text]);
        if (end >= 0)
        {
            // Its end tag is whole by what was looked for; the rest of it is read as any other.
            rawEnd = null;
            script = MarkupScan.ScriptState.Plain;
            return end > 0 ? end : Markup(rest, last);
        }

        return text;
    }

    /// <summary>Takes one piece of markup; 0 when it is not whole yet.</summary>
    private int Markup(ReadOnlySpan<byte> rest, bool last)
    {
        if (rest.Length < 3 && !last)
        {
            return 0;
        }

        var closing = rest.Length > 1 && rest[1] == '/';
        var nameAt = closing ? 2 : 1;
        if (rest.Length <= nameAt)
        {
            Text(rest);
            return rest.Length;
        }

        if (!IsLetter(rest[nameAt]))
        {
            // An end tag without a name is an odd comment (HTML §13.2.5.7).
            return rest[1] is (byte)'!' or (byte)'?' || closing ? Declaration(rest) : One(rest);
        }

        var end = TagReader.EndOf(rest, TagReader.EndOfName(rest, nameAt));
        if (end < 0 || IsNoScriptEnd(rest[1..end]))
        {
            return end < 0 ? 0 : One(rest);
        }

        var tag = rest[..end];
        var nameEnd = TagReader.EndOfName(tag, nameAt);
        var element = Element.Of(tag[nameAt..nameEnd]);
        if (closing)
        {
            Close(element, tag);
        }
        else
        {
            Start(element, tag, nameEnd);
        }

        return end;
    }

    private int One(ReadOnlySpan<byte> rest)
    {
        Text(rest[..1]);
        return 1;
    }

    private int Declaration(ReadOnlySpan<byte> rest)
    {
        var end = MarkupScan.EndOfDeclaration(rest, isXml || open.Top?.IsForeign == true);
        if (end > 0 && IsNoScriptEnd(rest[1..end]))
        {
            return One(rest);
        }

        isStandard |= end > 0 && rest.Length > 9 && Is(rest[1..9], "!doctype"u8);
        Put(rest[..end]);
        return end;
    }

    /// <summary>
    /// Whether the end of a noscript element stands inside a tag or comment: a browser with scripts reads the element as text, and ends it there. What is
    /// written both ways is read both ways.
    /// </summary>
    private bool IsNoScriptEnd(ReadOnlySpan<byte> inside)
    {
        if (open.Of(Element.NoScript) < 0)
        {
            return false;
        }

        var state = MarkupScan.ScriptState.Plain;
        return MarkupScan.EndOfRaw(inside, "noscript", ref state, out _) >= 0;
    }

    /// <summary>Markup that nothing ends: a browser leaves it out. It stays unless it names something hidden, as text of the page that it is.</summary>
    private void CutOff(ReadOnlySpan<byte> rest)
    {
        var reader = new TagReader(rest, TagReader.EndOfName(rest, 1));
        var isHidden = false;
        while (rest.Length > 1 && IsLetter(rest[1]) && reader.Next(out _, out var value))
        {
            var text = value.IsEmpty ? rest[reader.From..] : value;
            isHidden |= Decode(text).Split(' ', '=', '"', '\'').Any(part => part.Length > 0 && Decider.OfLink(part) == Fate.Drop);
        }

        if (!isHidden)
        {
            Put(rest);
        }
    }
}
