using System.Buffers;
using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>
/// Filters HTML, or XML such as a sitemap, as it streams by. What names something hidden goes, with the entry that stands for it, and nothing else; what
/// stays is untouched, byte for byte (docs/explanation/filter.md). Works on bytes of any encoding that keeps ASCII in place.
/// On the path of every filtered page; measured in docs/performance.md.
/// </summary>
public abstract class MarkupFilter
{
    /// <summary>What waits for its end grows at most so large; then it is decided by what is there.</summary>
    private protected const int MostHeld = 1 << 20;

    /// <summary>A tag that is longer cannot be judged, and goes. Pictures stand in tags.</summary>
    private const int LongestTag = 1 << 23;

    /// <summary>So much of a piece of markup says what it is.</summary>
    private const int ShortestTag = 10;

    private ArrayBufferWriter<byte> carry = new(4096);
    private ArrayBufferWriter<byte> spare = new(4096);
    private bool isClosed;

    private protected MarkupFilter(IMarkupDecider decider, Encoding encoding) => (Decider, Encoding) = (decider, encoding);

    private protected IMarkupDecider Decider { get; }

    private protected Encoding Encoding { get; }

    private protected HeldBytes Held { get; } = new();

    /// <summary>A filter for one page of HTML.</summary>
    /// <param name="decider">Says what becomes of what a page holds.</param>
    /// <param name="encoding">The encoding of the page, which keeps ASCII in place; UTF-8 where it is not known.</param>
    /// <param name="taught">What the owner taught of the page; nothing unless said.</param>
    public static MarkupFilter OfHtml(IMarkupDecider decider, Encoding? encoding = null, Taught? taught = null) =>
        new HtmlFilter(decider, encoding ?? Encoding.UTF8, false, taught ?? Taught.Nothing);

    /// <summary>A filter for HTML in the syntax of XML.</summary>
    public static MarkupFilter OfXhtml(IMarkupDecider decider, Encoding? encoding = null, Taught? taught = null) =>
        new HtmlFilter(decider, encoding ?? Encoding.UTF8, true, taught ?? Taught.Nothing);

    /// <summary>A filter for XML.</summary>
    public static MarkupFilter OfXml(IMarkupDecider decider, Encoding? encoding = null) => new XmlFilter(decider, encoding ?? Encoding.UTF8);

    /// <summary>A filter for addresses, one on each line.</summary>
    public static MarkupFilter OfLines(IMarkupDecider decider, Encoding? encoding = null) => new LineFilter(decider, encoding ?? Encoding.UTF8);

    /// <summary>Takes a piece of the page and writes what can be let go of.</summary>
    /// <param name="piece">The next bytes.</param>
    /// <param name="last">Whether nothing follows.</param>
    /// <param name="output">Where the filtered bytes go.</param>
    public void Write(ReadOnlySpan<byte> piece, bool last, IBufferWriter<byte> output)
    {
        if (carry.WrittenCount == 0)
        {
            Run(piece, last);
        }
        else
        {
            carry.Write(piece);
            // A tag that goes on for long is looked at again only where it may end.
            if (last || carry.WrittenCount > LongestTag || !WaitsForTag(carry.WrittenSpan) || piece.Contains((byte)'>') || carry.WrittenCount < ShortestTag)
            {
                (carry, spare) = (spare, carry);
                carry.ResetWrittenCount();
                Run(spare.WrittenSpan, last);
            }
        }

        if (last)
        {
            End();
        }

        Held.LetGo(last ? Held.End : Settled(), last, output);
    }

    private void Run(ReadOnlySpan<byte> data, bool last)
    {
        var at = 0;
        while (at < data.Length && !isClosed)
        {
            var used = Take(data[at..], last);
            if (used > 0)
            {
                at += used;
                continue;
            }

            var rest = data[at..];
            if (!last && rest.Length <= LongestTag)
            {
                carry.Write(rest);
                return;
            }

            // Where such a tag ends cannot be told: nothing behind it is let through.
            Decider.TooLarge();
            isClosed = true;
            return;
        }
    }

    /// <summary>Takes one piece of markup or text; gives how long it is, 0 when it is not whole yet. The last is taken whatever it is.</summary>
    private protected abstract int Take(ReadOnlySpan<byte> rest, bool last);

    /// <summary>Whether what is kept back can end by nothing but the end of a tag.</summary>
    private protected virtual bool WaitsForTag(ReadOnlySpan<byte> kept) => kept[0] == '<';

    /// <summary>Nothing follows.</summary>
    private protected abstract void End();

    /// <summary>The place before which everything is settled.</summary>
    private protected abstract long Settled();

    private protected string Decode(ReadOnlySpan<byte> value) => CharacterReferences.Decode(Encoding.GetString(value));

    private protected static bool Is(ReadOnlySpan<byte> name, ReadOnlySpan<byte> lower) => Ascii.EqualsIgnoreCase(name, lower);

    private protected static bool IsLetter(byte b) => (b | 0x20) is >= (byte)'a' and <= (byte)'z';
}
