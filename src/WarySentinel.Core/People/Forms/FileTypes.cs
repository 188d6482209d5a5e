namespace WarySentinel.Core.People.Forms;

/// <summary>The kinds of files that can be asked for, told by how they begin: what a file is called says nothing.</summary>
public static class FileTypes
{
    private static readonly Dictionary<string, (string Media, byte[][] Begins)> Known = new(StringComparer.Ordinal)
    {
        ["pdf"] = ("application/pdf", ["%PDF-"u8.ToArray()]),
        ["png"] = ("image/png", [[0x89, (byte)'P', (byte)'N', (byte)'G', 0x0d, 0x0a, 0x1a, 0x0a]]),
        ["jpg"] = ("image/jpeg", [[0xff, 0xd8, 0xff]]),
        ["gif"] = ("image/gif", ["GIF87a"u8.ToArray(), "GIF89a"u8.ToArray()]),
        ["zip"] = ("application/zip", ["PK\x3\x4"u8.ToArray()]),
        ["txt"] = ("text/plain", []),
    };

    /// <summary>The names of all.</summary>
    public static readonly IReadOnlyList<string> All = [.. Known.Keys];

    /// <summary>Whether there is such a kind.</summary>
    public static bool IsKnown(string? type) => type is not null && Known.ContainsKey(type);

    /// <summary>The media type (RFC 6838) under which staff are given it.</summary>
    public static string MediaOf(string type) => Known[type].Media;

    /// <summary>What a file is, of those that are taken; null where it is none of them, whatever it is called.</summary>
    /// <param name="name">What it is called.</param>
    /// <param name="content">All of it.</param>
    /// <param name="taken">The kinds that are taken; null for all.</param>
    public static string? Of(string name, ReadOnlySpan<byte> content, IReadOnlyList<string>? taken)
    {
        var ending = Path.GetExtension(name).TrimStart('.').ToLowerInvariant();
        ending = ending == "jpeg" ? "jpg" : ending;
        return Known.ContainsKey(ending) && (taken ?? All).Contains(ending) && Is(ending, content) ? ending : null;
    }

    private static bool Is(string type, ReadOnlySpan<byte> content)
    {
        if (type == "txt")
        {
            return !content.Contains((byte)0) && System.Text.Unicode.Utf8.IsValid(content);
        }

        foreach (var begin in Known[type].Begins)
        {
            if (content.StartsWith(begin))
            {
                return true;
            }
        }

        return false;
    }
}
