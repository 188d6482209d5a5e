using System.Runtime;

namespace WarySentinel.Service;

/// <summary>
/// A start in which the memory is not tidied: nearly all that is read stays, and to carry it along from generation to generation takes a sixth of a
/// start with 100,000 items. Where there is not so much memory, it is tidied.
/// </summary>
internal sealed class QuietStart : IDisposable
{
    private const long Bytes = 200L << 20;

    /// <summary>Begins it.</summary>
    public QuietStart()
    {
        try
        {
            _ = GC.TryStartNoGCRegion(Bytes);
        }
        catch (Exception refused) when (refused is ArgumentOutOfRangeException or InvalidOperationException)
        {
            // Less memory than that.
        }
    }

    /// <summary>Ends it; it may have ended by itself, where more was needed.</summary>
    public void Dispose()
    {
        if (GCSettings.LatencyMode == GCLatencyMode.NoGCRegion)
        {
            GC.EndNoGCRegion();
        }
    }
}
