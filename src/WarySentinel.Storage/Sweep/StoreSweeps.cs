using System.Runtime.CompilerServices;
using Microsoft.EntityFrameworkCore;
using WarySentinel.Storage.Sweep;

namespace WarySentinel.Storage;

/// <summary>What a sweep found, as it is kept.</summary>
public sealed record StoredSweep(Guid Id, DateTimeOffset StartedAt, DateTimeOffset EndedAt, string By, int Leaks, string Report);

/// <summary>A part of what a sweep noted while it runs; the first, numbered 0, says what it is.</summary>
public sealed record StoredSweepPart(Guid Sweep, int Number, int Notes, byte[] Body);

/// <summary>What sweeps found.</summary>
public sealed partial class Store
{
    private const int SweepsKept = 50;

    /// <summary>Keeps what a sweep found; the oldest go, and what it noted on its way.</summary>
    public async Task KeepSweepAsync(StoredSweep sweep, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        // One that was killed between the report and the end of its notes was gone on with: it found the same again.
        await db.Sweeps.Where(s => s.Id == sweep.Id).ExecuteDeleteAsync(stop);
        db.Sweeps.Add(new SweepRow
        {
            Id = sweep.Id, StartedAt = sweep.StartedAt, EndedAt = sweep.EndedAt, By = sweep.By, Leaks = sweep.Leaks, Report = sweep.Report,
        });
        await db.SaveChangesAsync(stop);
        await db.SweepParts.ExecuteDeleteAsync(stop);
        var old = await db.Sweeps.OrderByDescending(s => s.StartedAt).Skip(SweepsKept).Select(s => s.Id).ToListAsync(stop);
        await db.Sweeps.Where(s => old.Contains(s.Id)).ExecuteDeleteAsync(stop);
    }

    /// <summary>Sweeps, newest first.</summary>
    public async Task<IReadOnlyList<StoredSweep>> SweepsAsync(int most, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.Sweeps.AsNoTracking().OrderByDescending(s => s.StartedAt).Take(most).ToListAsync(stop);
        return [.. rows.Select(s => new StoredSweep(s.Id, s.StartedAt, s.EndedAt, s.By, s.Leaks, s.Report))];
    }

    /// <summary>Begins to keep what a sweep notes; what one before it left is forgotten.</summary>
    public async Task BeginSweepAsync(StoredSweepPart first, CancellationToken stop = default)
    {
        using (await TurnToWriteAsync(stop))
        {
            await using var db = open();
            await db.SweepParts.ExecuteDeleteAsync(stop);
        }

        await KeepSweepPartAsync(first, stop);
    }

    /// <summary>Keeps what a sweep noted.</summary>
    public async Task KeepSweepPartAsync(StoredSweepPart part, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        db.SweepParts.Add(new SweepPartRow { Sweep = part.Sweep, Number = part.Number, Notes = part.Notes, Body = part.Body });
        await db.SaveChangesAsync(stop);
    }

    /// <summary>The beginning of the sweep that has not ended, and how much it noted; null where there is none.</summary>
    public async Task<(StoredSweepPart First, int Notes)?> UnfinishedSweepAsync(CancellationToken stop = default)
    {
        await using var db = open();
        var first = await db.SweepParts.AsNoTracking().Where(p => p.Number == 0).FirstOrDefaultAsync(stop);
        return first is null ? null
            : (PartOf(first), await db.SweepParts.Where(p => p.Sweep == first.Sweep).SumAsync(p => p.Notes, stop));
    }

    /// <summary>What a sweep noted, part by part.</summary>
    public async IAsyncEnumerable<StoredSweepPart> SweepPartsAsync(Guid sweep, [EnumeratorCancellation] CancellationToken stop = default)
    {
        await using var db = open();
        await foreach (var row in db.SweepParts.AsNoTracking().Where(p => p.Sweep == sweep && p.Number > 0).OrderBy(p => p.Number).AsAsyncEnumerable()
            .WithCancellation(stop))
        {
            yield return PartOf(row);
        }
    }

    private static StoredSweepPart PartOf(SweepPartRow row) => new(row.Sweep, row.Number, row.Notes, row.Body);
}
