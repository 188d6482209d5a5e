using Microsoft.EntityFrameworkCore;
using WarySentinel.Storage.Sweep;

namespace WarySentinel.Storage;

/// <summary>What a sweep found, as it is kept.</summary>
public sealed record StoredSweep(Guid Id, DateTimeOffset StartedAt, DateTimeOffset EndedAt, string By, int Leaks, string Report);

/// <summary>What sweeps found.</summary>
public sealed partial class Store
{
    private const int SweepsKept = 50;

    /// <summary>Keeps what a sweep found; the oldest go.</summary>
    public async Task KeepSweepAsync(StoredSweep sweep, CancellationToken stop = default)
    {
        await using var db = open();
        db.Sweeps.Add(new SweepRow
        {
            Id = sweep.Id, StartedAt = sweep.StartedAt, EndedAt = sweep.EndedAt, By = sweep.By, Leaks = sweep.Leaks, Report = sweep.Report,
        });
        await db.SaveChangesAsync(stop);
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
}
