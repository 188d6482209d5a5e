using System.IO.Compression;
using System.Text.Json;
using WarySentinel.Contract.Sweep;
using WarySentinel.Storage;

namespace WarySentinel.Service.Sweep;

/// <summary>What a sweep began as.</summary>
/// <param name="Draft">What it is to do.</param>
/// <param name="Revision">The policy that it compares with: once that has changed, what it noted says nothing any more.</param>
/// <param name="StartedAt">When it began.</param>
/// <param name="By">Who began it.</param>
internal sealed record SweepBegun(SweepDraft Draft, long Revision, DateTimeOffset StartedAt, string By);

/// <summary>Keeps the notes of a sweep in the store while it runs, some hundred at a time, so that it can be gone on with, on any machine.</summary>
internal sealed class SweepJournal
{
    private const int MostTogether = 400;
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(3);
    private readonly SemaphoreSlim writing = new(1, 1);
    private readonly Store store;
    private readonly TimeProvider time;
    private List<SweepNote> notes = [];
    private DateTimeOffset last;
    private int number;

    private SweepJournal(Store store, TimeProvider time, Guid sweep, SweepBegun begun, int number) =>
        (this.store, this.time, Sweep, Begun, this.number, last) = (store, time, sweep, begun, number, time.GetUtcNow());

    /// <summary>The sweep.</summary>
    public Guid Sweep { get; }

    /// <summary>What it began as.</summary>
    public SweepBegun Begun { get; }

    /// <summary>Begins one.</summary>
    public static async Task<SweepJournal> BeginAsync(Store store, TimeProvider time, SweepBegun begun, CancellationToken stop)
    {
        var sweep = Guid.CreateVersion7();
        await store.BeginSweepAsync(new StoredSweepPart(sweep, 0, 0, Packed(begun)), stop);
        return new SweepJournal(store, time, sweep, begun, 0);
    }

    /// <summary>The one that has not ended, and how much it noted; null where there is none, or one that cannot be read any more.</summary>
    public static async Task<(SweepJournal Journal, int Notes)?> FindAsync(Store store, TimeProvider time, CancellationToken stop)
    {
        try
        {
            return await store.UnfinishedSweepAsync(stop) is { } found && Unpacked<SweepBegun>(found.First.Body) is { } begun
                ? (new SweepJournal(store, time, found.First.Sweep, begun, 0), found.Notes) : null;
        }
        catch (Exception fault) when (fault is JsonException or InvalidDataException or NotSupportedException)
        {
            return null;
        }
    }

    /// <summary>Has what was noted before told again. What cannot be read is asked for again.</summary>
    public async Task ReplayAsync(Action<SweepNote> tell, CancellationToken stop)
    {
        await foreach (var part in store.SweepPartsAsync(Sweep, stop))
        {
            number = Math.Max(number, part.Number);
            try
            {
                (Unpacked<List<SweepNote>>(part.Body) ?? []).ForEach(tell);
            }
            catch (Exception fault) when (fault is JsonException or InvalidDataException or NotSupportedException)
            {
                // Another version wrote it.
            }
        }
    }

    /// <summary>Keeps a note: soon.</summary>
    public async Task KeepAsync(SweepNote note, CancellationToken stop)
    {
        await writing.WaitAsync(stop);
        try
        {
            notes.Add(note);
            if (notes.Count >= MostTogether || time.GetUtcNow() - last > Longest)
            {
                await WriteAsync(stop);
            }
        }
        finally
        {
            writing.Release();
        }
    }

    /// <summary>Keeps what is not kept yet: it is broken off.</summary>
    public async Task CloseAsync()
    {
        await writing.WaitAsync();
        try
        {
            await WriteAsync(CancellationToken.None);
        }
        finally
        {
            writing.Release();
        }
    }

    private async Task WriteAsync(CancellationToken stop)
    {
        if (notes.Count > 0)
        {
            await store.KeepSweepPartAsync(new StoredSweepPart(Sweep, number + 1, notes.Count, Packed(notes)), stop);
            (number, notes) = (number + 1, []);
        }

        last = time.GetUtcNow();
    }

    private static byte[] Packed<T>(T value)
    {
        using var packed = new MemoryStream();
        using (var brotli = new BrotliStream(packed, CompressionLevel.Fastest, true))
        {
            JsonSerializer.Serialize(brotli, value, SweepRunner.Written);
        }

        return packed.ToArray();
    }

    private static T? Unpacked<T>(byte[] body)
    {
        using var brotli = new BrotliStream(new MemoryStream(body, false), CompressionMode.Decompress);
        return JsonSerializer.Deserialize<T>(brotli, SweepRunner.Written);
    }
}
