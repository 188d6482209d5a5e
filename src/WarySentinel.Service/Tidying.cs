namespace WarySentinel.Service;

/// <summary>
/// Memory that is given back once it is free. What writes by the thousand leave behind outlives the small first generation, and the runtime tidies the
/// last one only when it has grown by as much again. docs/performance.md
/// </summary>
internal sealed class Tidying : IDisposable
{
    /// <summary>Given out meanwhile, in bytes: so much makes it worth while.</summary>
    private const long Worth = 64L << 20;

    /// <summary>So much makes it worth while beside work.</summary>
    private const long WorthBesideWork = 192L << 20;

    /// <summary>Given out between two looks, in bytes: less, and nobody is at work.</summary>
    private const long Rest = 4L << 20;

    /// <summary>A heap of more, in bytes, is not moved together: it would hold up everybody for more than the fifth of a second.</summary>
    private const long MostMoved = 256L << 20;

    /// <summary>So many looks without rest, a minute: then it is moved together beside work, too.</summary>
    private const int Seldom = 12;

    private static readonly TimeSpan Every = TimeSpan.FromSeconds(5);
    private readonly Timer timer;
    private long seen, moved, swept;
    private int looks;

    /// <summary>Begins to look after it.</summary>
    public Tidying() => timer = new Timer(_ => Look(), null, Every, Every);

    /// <inheritdoc/>
    public void Dispose() => timer.Dispose();

    private void Look()
    {
        var (given, before) = (GC.GetTotalAllocatedBytes(), seen);
        seen = given;
        looks++;
        if (given - moved > Worth && (given - before < Rest || looks > Seldom) && GC.GetGCMemoryInfo(GCKind.Any).HeapSizeBytes < MostMoved)
        {
            (moved, swept, looks) = (given, given, 0);
            GC.Collect(GC.MaxGeneration, GCCollectionMode.Aggressive, blocking: true, compacting: true);
            NativeMemory.Trim();
        }
        else if (given - swept > WorthBesideWork)
        {
            swept = given;
            GC.Collect(GC.MaxGeneration, GCCollectionMode.Forced, blocking: false);
            NativeMemory.Trim();
        }
    }
}
