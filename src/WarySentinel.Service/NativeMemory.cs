using System.Runtime.InteropServices;

namespace WarySentinel.Service;

/// <summary>
/// Memory that SQLite takes from the C library. It keeps what was given back in up to eight arenas for each processor, none of which sees what lies free
/// in another. Half a million members stored: 465 to 600 MB so, 425 to 456 with this, 331 and 345 where MALLOC_ARENA_MAX=2 bounds them from outside.
/// </summary>
internal static class NativeMemory
{
    /// <summary>M_ARENA_MAX (mallopt(3)).</summary>
    private const int ArenaMax = -8;

    /// <summary>Bounds the arenas; before anything else, as one that is there stays. A C library that knows no such bound goes without.</summary>
    public static void Bound() => Try(() => SetOption(ArenaMax, Math.Max(2, Environment.ProcessorCount)));

    /// <summary>Has what lies free in them given back to the system.</summary>
    public static void Trim() => Try(() => TrimAll(0));

    private static void Try(Func<int> call)
    {
        try
        {
            _ = call();
        }
        catch (Exception fault) when (fault is EntryPointNotFoundException or DllNotFoundException)
        {
            // musl has no arenas either.
        }
    }

    [DllImport("libc", EntryPoint = "mallopt", ExactSpelling = true)]
    [DefaultDllImportSearchPaths(DllImportSearchPath.System32)]
    private static extern int SetOption(int option, int value);

    [DllImport("libc", EntryPoint = "malloc_trim", ExactSpelling = true)]
    [DefaultDllImportSearchPaths(DllImportSearchPath.System32)]
    private static extern int TrimAll(nuint keep);
}
