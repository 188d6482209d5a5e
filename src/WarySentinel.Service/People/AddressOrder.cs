using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.People;

/// <summary>
/// The rows of a file of members in the order of their addresses, however many they are: some thousands at a time are put in order and laid down in a file
/// of their own, and are merged from there. Who is stored in that order touches each page of an index once; and of two rows with one address the second
/// comes right after the first.
/// </summary>
internal sealed class AddressOrder : IAsyncDisposable
{
    private const int MostRows = 30_000;
    private const int MostLetters = 6_000_000;
    private const int BlockBytes = 32 * 1024;

    private readonly MemberCsv csv;
    private readonly FileStream file;
    private readonly List<List<Block>> runs = [];
    private long end;

    private AddressOrder(MemberCsv csv, FileStream file) => (this.csv, this.file) = (csv, file);

    /// <summary>So many rows say anything.</summary>
    public int Count { get; private set; }

    /// <summary>Reads all of a file. Throws <see cref="MemberFileException"/> where it is none of members from some line on.</summary>
    /// <param name="csv">The file.</param>
    /// <param name="folder">The data folder.</param>
    /// <param name="tell">Told how many rows were read so far.</param>
    /// <param name="stop">Gives up.</param>
    public static async Task<AddressOrder> ReadAsync(MemberCsv csv, string folder, Action<int> tell, CancellationToken stop)
    {
        var order = new AddressOrder(csv, Spool.New(folder));
        try
        {
            order.ReadAll(tell, stop);
            return order;
        }
        catch
        {
            await order.DisposeAsync();
            throw;
        }
    }

    /// <summary>The rows in order, each with its address as addresses are compared; those without a good one come first, with an empty one.</summary>
    public IEnumerable<(string Address, ImportRow Row)> Rows()
    {
        var next = new PriorityQueue<IEnumerator<Laid>, Laid>(runs.Count, Comparer<Laid>.Create(Compare));
        foreach (var run in runs.Select(r => RowsOf(r).GetEnumerator()).Where(r => r.MoveNext()))
        {
            next.Enqueue(run, run.Current);
        }

        while (next.TryPeek(out var run, out var row))
        {
            yield return (row.Address, csv.RowOf(row.Record, row.Line));
            if (run.MoveNext())
            {
                next.DequeueEnqueue(run, run.Current);
            }
            else
            {
                next.Dequeue();
            }
        }
    }

    /// <inheritdoc/>
    public ValueTask DisposeAsync() => file.DisposeAsync();

    private static int Compare(Laid one, Laid other) =>
        string.CompareOrdinal(one.Address, other.Address) is not 0 and var order ? order : one.Line.CompareTo(other.Line);

    private void ReadAll(Action<int> tell, CancellationToken stop)
    {
        var (some, letters) = (new List<Laid>(), 0);
        foreach (var (line, record) in csv.Records())
        {
            stop.ThrowIfCancellationRequested();
            some.Add(new Laid(EmailAddress.Normalise(csv.RowOf(record, line).Email) ?? "", line, record));
            letters += record.Sum(f => f.Length);
            Count++;
            if (some.Count == MostRows || letters > MostLetters)
            {
                tell(Count);
                LayDown(some);
                some.Clear();
                letters = 0;
            }
        }

        LayDown(some);
    }

    private void LayDown(List<Laid> some)
    {
        some.Sort(Compare);
        var blocks = new List<Block>();
        using var bytes = new MemoryStream();
        using var writer = new BinaryWriter(bytes);
        var rows = 0;
        for (var i = 0; i < some.Count; i++)
        {
            some[i].Write(writer);
            rows++;
            if (bytes.Length >= BlockBytes || i == some.Count - 1)
            {
                RandomAccess.Write(file.SafeFileHandle, bytes.GetBuffer().AsSpan(0, (int)bytes.Length), end);
                blocks.Add(new Block(end, (int)bytes.Length, rows));
                (end, rows) = (end + bytes.Length, 0);
                bytes.SetLength(0);
            }
        }

        runs.Add(blocks);
    }

    private IEnumerable<Laid> RowsOf(List<Block> blocks)
    {
        foreach (var block in blocks)
        {
            var bytes = new byte[block.Length];
            for (int at = 0, read; at < bytes.Length; at += read)
            {
                read = RandomAccess.Read(file.SafeFileHandle, bytes.AsSpan(at), block.At + at);
                if (read == 0)
                {
                    throw new EndOfStreamException();
                }
            }

            using var reader = new BinaryReader(new MemoryStream(bytes));
            for (var n = 0; n < block.Rows; n++)
            {
                yield return Laid.Read(reader);
            }
        }
    }

    private sealed record Block(long At, int Length, int Rows);

    private readonly record struct Laid(string Address, int Line, string[] Record)
    {
        public static Laid Read(BinaryReader from)
        {
            var (address, line, record) = (from.ReadString(), from.Read7BitEncodedInt(), new string[from.Read7BitEncodedInt()]);
            for (var i = 0; i < record.Length; i++)
            {
                record[i] = from.ReadString();
            }

            return new Laid(address, line, record);
        }

        public void Write(BinaryWriter to)
        {
            to.Write(Address);
            to.Write7BitEncodedInt(Line);
            to.Write7BitEncodedInt(Record.Length);
            Array.ForEach(Record, to.Write);
        }
    }
}
