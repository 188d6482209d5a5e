namespace WarySentinel.Storage;

/// <summary>What is made of many rows while the rest of them is still being read: on another processor, in their order.</summary>
internal sealed class Batches<TRow, TMade>(Func<TRow, TMade> make)
{
    private const int Size = 4096;
    private readonly List<Task<TMade[]>> under = [];
    private TRow[] rows = new TRow[Size];
    private int count;

    /// <summary>Takes a row; gives it back.</summary>
    public TRow Add(TRow row)
    {
        rows[count++] = row;
        if (count == Size)
        {
            Send();
        }

        return row;
    }

    /// <summary>All that was made, in the order of their rows.</summary>
    public async Task<List<TMade>> AllAsync()
    {
        Send();
        var all = new List<TMade>(under.Count * Size);
        foreach (var batch in under)
        {
            all.AddRange(await batch);
        }

        return all;
    }

    private void Send()
    {
        var full = new ArraySegment<TRow>(rows, 0, count);
        (rows, count) = (new TRow[Size], 0);
        under.Add(Task.Run(() =>
        {
            var made = new TMade[full.Count];
            for (var i = 0; i < made.Length; i++)
            {
                made[i] = make(full[i]);
            }

            return made;
        }));
    }
}
