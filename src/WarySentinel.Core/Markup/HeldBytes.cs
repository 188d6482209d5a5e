using System.Buffers;

namespace WarySentinel.Core.Markup;

/// <summary>Bytes of a page that wait until it is known what becomes of them. Places are counted from the beginning of the page.</summary>
internal sealed class HeldBytes
{
    // Borrowed, and given back with the last byte: a page of usual size fits without growing.
    private byte[] bytes = ArrayPool<byte>.Shared.Rent(64 * 1024);
    private readonly List<Edit> edits = new(256);
    private long first;
    private int length;

    private readonly record struct Edit(long From, long To, byte[]? Instead) : IComparable<Edit>
    {
        public int CompareTo(Edit other) => From != other.From ? From.CompareTo(other.From) : other.To.CompareTo(To);
    }

    /// <summary>One past the last byte.</summary>
    public long End => first + length;

    public void Put(ReadOnlySpan<byte> more)
    {
        if (length + more.Length > bytes.Length)
        {
            var larger = ArrayPool<byte>.Shared.Rent(Math.Max(bytes.Length * 2, length + more.Length));
            bytes.AsSpan(0, length).CopyTo(larger);
            GiveBack();
            bytes = larger;
        }

        more.CopyTo(bytes.AsSpan(length));
        length += more.Length;
    }

    /// <summary>The bytes from a place on, as they were put.</summary>
    public ReadOnlySpan<byte> Since(long from) => bytes.AsSpan((int)(from - first), (int)(End - from));

    /// <summary>The bytes between two places.</summary>
    public ReadOnlySpan<byte> Between(long from, long to) => bytes.AsSpan((int)(from - first), (int)(to - from));

    /// <summary>Whether the bytes of a place are here still.</summary>
    public bool Has(long place) => place >= first;

    /// <summary>Leaves bytes out, or puts others in their place.</summary>
    public void Replace(long from, long to, byte[]? instead = null)
    {
        if (to > from || instead is not null)
        {
            edits.Add(new Edit(from, to, instead));
        }
    }

    /// <summary>Lets go of the bytes before a place; with the last of them, of what is put behind.</summary>
    public void LetGo(long before, bool last, IBufferWriter<byte> output)
    {
        if (before <= first && !last)
        {
            return;
        }

        var at = first;
        if (edits.Count > 0)
        {
            at = Edited(before, last, output);
        }

        output.Write(Between(at, Math.Max(at, before)));
        var (kept, gone) = ((int)(End - before), (int)(before - first));
        bytes.AsSpan(gone, kept).CopyTo(bytes);
        (first, length) = (before, kept);
        if (last)
        {
            GiveBack();
        }
    }

    private void GiveBack()
    {
        ArrayPool<byte>.Shared.Return(bytes);
        bytes = [];
    }

    private long Edited(long before, bool last, IBufferWriter<byte> output)
    {
        edits.Sort();
        var (at, done) = (first, 0);
        foreach (var edit in edits)
        {
            if (edit.From >= before && !last)
            {
                break;
            }

            done++;
            if (edit.From < at)
            {
                // It stands inside of something that goes.
                at = Math.Max(at, edit.To);
                continue;
            }

            output.Write(Between(at, edit.From));
            output.Write(edit.Instead);
            at = edit.To;
        }

        edits.RemoveRange(0, done);
        if (at > before)
        {
            edits.Add(new Edit(before, at, null));
        }

        return Math.Min(at, before);
    }
}
