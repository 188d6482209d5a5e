namespace WarySentinel.Cli;

/// <summary>How large files are, in words.</summary>
internal static class Sizes
{
    /// <summary>A number of bytes in units of a thousand (IEC 80000-13).</summary>
    public static string Of(long bytes) => bytes < 1000 ? $"{bytes} bytes" : bytes < 1_000_000 ? $"{bytes / 1e3:0.#} kB"
        : bytes < 1_000_000_000 ? $"{bytes / 1e6:0.#} MB" : $"{bytes / 1e9:0.#} GB";
}
