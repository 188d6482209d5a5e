using System.Diagnostics.CodeAnalysis;

namespace WarySentinel.Core.Files;

/// <summary>
/// A way to a file inside a folder: names between slashes, none of which leads up, is hidden, or means something else to a file system. What is not such a
/// way leads nowhere.
/// </summary>
public static class AreaPath
{
    private const int MostParts = 20;
    private const int LongestName = 255;

    /// <summary>Reads the names of a way; false where one of them is none that a visitor may ask for. Nothing at all is the folder itself.</summary>
    /// <param name="path">The way, percent-decoded, without a slash before or behind.</param>
    /// <param name="parts">The names.</param>
    public static bool TryRead(string path, [NotNullWhen(true)] out string[]? parts)
    {
        parts = path.Length == 0 ? [] : path.Split('/');
        if (parts.Length <= MostParts && Array.TrueForAll(parts, IsName))
        {
            return true;
        }

        parts = null;
        return false;
    }

    /// <summary>Whether a name may be asked for: it is not hidden, leads nowhere else, and can be read.</summary>
    public static bool IsName(string name) => name.Length is > 0 and <= LongestName && name[0] != '.' && !name.Contains('/', StringComparison.Ordinal)
        && !name.Contains('\\', StringComparison.Ordinal) && PlainText.IsClean(name)
        // Servers leave an encoded slash as it is: which of the two was meant, nobody knows.
        && !name.Contains("%2f", StringComparison.OrdinalIgnoreCase);
}
