using System.Buffers;
using System.Text;

namespace WarySentinel.Service.Gateway;

/// <summary>
/// Writes the site's address in place of the one that the origin is reached by, wherever a page names it, also as scripts and JSON write it
/// (<c>http:\/\/…</c>). Works on pieces of any size.
/// </summary>
internal sealed class OwnAddress
{
    private readonly IReadOnlyList<(byte[] From, byte[] To)> spellings;
    private readonly ArrayBufferWriter<byte> kept = new(256);

    private OwnAddress(IReadOnlyList<(byte[] From, byte[] To)> spellings) => this.spellings = spellings;

    /// <summary>Whether the address was found so far.</summary>
    public bool HasTurned { get; private set; }

    /// <summary>All the ways in which a page may write the origin's address, and what stands there instead; none where its addresses stay.</summary>
    public static IReadOnlyList<(byte[] From, byte[] To)> SpellingsFor(ServiceOptions options)
    {
        var (spellings, site) = (new List<(byte[] From, byte[] To)>(), new Uri(options.SiteUrl));
        foreach (var authority in options.TurnedAuthorities)
        {
            Add("http://" + authority, site.GetLeftPart(UriPartial.Authority));
            Add("https://" + authority, site.GetLeftPart(UriPartial.Authority));
            foreach (var before in "\"'=(")
            {
                Add(before + "//" + authority, before + "//" + site.Authority);
            }
        }

        return spellings;

        void Add(string from, string to)
        {
            spellings.Add((Encoding.ASCII.GetBytes(from), Encoding.ASCII.GetBytes(to)));
            spellings.Add((Encoding.ASCII.GetBytes(from.Replace("/", "\\/", StringComparison.Ordinal)),
                Encoding.ASCII.GetBytes(to.Replace("/", "\\/", StringComparison.Ordinal))));
        }
    }

    /// <summary>For one answer; null where nothing is turned.</summary>
    public static OwnAddress? For(IReadOnlyList<(byte[] From, byte[] To)> spellings) => spellings.Count == 0 ? null : new OwnAddress(spellings);

    /// <summary>Takes the next bytes of a page and gives what can be let go of.</summary>
    public ReadOnlySpan<byte> Turn(ReadOnlySpan<byte> piece, bool last)
    {
        if (kept.WrittenCount == 0 && Next(piece, out _) < 0)
        {
            var waits = last ? 0 : Begun(piece);
            kept.Write(piece[^waits..]);
            return piece[..^waits];
        }

        var all = new ArrayBufferWriter<byte>(kept.WrittenCount + piece.Length + 1);
        all.Write(kept.WrittenSpan);
        all.Write(piece);
        kept.ResetWrittenCount();
        var data = all.WrittenSpan;
        var output = new ArrayBufferWriter<byte>(data.Length + 64);
        var at = 0;
        for (var found = Next(data, out var spelling); found >= 0; found = Next(data[at..], out spelling))
        {
            var end = at + found + spelling.From.Length;
            if (end >= data.Length && !last)
            {
                break;
            }

            // A longer name, or another port, is somebody else.
            var isWhole = end >= data.Length || !IsOfHost(data[end]);
            output.Write(data[at..(at + found)]);
            output.Write(isWhole ? spelling.To : spelling.From);
            HasTurned |= isWhole;
            at = end;
        }

        // What may be the beginning of one waits.
        var keeps = last ? 0 : Begun(data[at..]);
        output.Write(data[at..^keeps]);
        kept.Write(data[^keeps..]);
        return output.WrittenSpan;
    }

    /// <summary>How many bytes at the end may be the beginning of the address.</summary>
    private int Begun(ReadOnlySpan<byte> data)
    {
        var most = 0;
        foreach (var (from, _) in spellings)
        {
            for (var length = Math.Min(from.Length, data.Length); length > most; length--)
            {
                most = data.EndsWith(from.AsSpan(0, length)) ? length : most;
            }
        }

        return most;
    }

    private int Next(ReadOnlySpan<byte> data, out (byte[] From, byte[] To) spelling)
    {
        var first = -1;
        spelling = default;
        foreach (var one in spellings)
        {
            var found = data.IndexOf(one.From);
            if (found >= 0 && (first < 0 || found < first))
            {
                (first, spelling) = (found, one);
            }
        }

        return first;
    }

    private static bool IsOfHost(byte sign) => char.IsAsciiLetterOrDigit((char)sign) || sign is (byte)'.' or (byte)'-' or (byte)':' or (byte)'@' or (byte)'_';
}
