using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>Filters a sitemap of lines: one that is the address of something hidden goes, with its end; all others stay as they are.</summary>
internal sealed class LineFilter(IMarkupDecider decider, Encoding encoding) : MarkupFilter(decider, encoding)
{
    private const int LongestAddress = 8 * 1024;
    private bool isInLine;

    private protected override int Take(ReadOnlySpan<byte> rest, bool last)
    {
        var end = rest.IndexOfAny((byte)'\n', (byte)'\r');
        if (end < 0 && !last && rest.Length <= LongestAddress && !isInLine)
        {
            return 0;
        }

        var length = end < 0 ? rest.Length : end + (rest[end] == '\r' && end + 1 < rest.Length && rest[end + 1] == '\n' ? 2 : 1);
        var text = Encoding.GetString(end < 0 ? rest : rest[..end]).Trim();
        var isHidden = !isInLine && text.StartsWith("http", StringComparison.OrdinalIgnoreCase) && Decider.OfLink(text) == Fate.Drop;
        // A line that is longer than any address is none.
        isInLine = end < 0;
        if (!isHidden)
        {
            Held.Put(rest[..length]);
        }

        return length;
    }

    private protected override bool WaitsForTag(ReadOnlySpan<byte> kept) => false;

    private protected override void End()
    {
    }

    private protected override long Settled() => Held.End;
}
