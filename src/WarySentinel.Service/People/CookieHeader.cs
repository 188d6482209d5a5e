using Microsoft.Extensions.Primitives;

namespace WarySentinel.Service.People;

/// <summary>Reads one cookie out of the header (RFC 6265 §4.2.1) without taking the rest apart.</summary>
internal static class CookieHeader
{
    /// <summary>The value of the first cookie of that name; ours are never quoted or escaped.</summary>
    public static bool TryFind(StringValues header, string name, out ReadOnlySpan<char> value)
    {
        for (var line = 0; line < header.Count; line++)
        {
            var rest = header[line].AsSpan();
            while (rest.Length > 0)
            {
                var end = rest.IndexOf(';');
                var pair = (end < 0 ? rest : rest[..end]).Trim(' ');
                if (pair.Length > name.Length && pair[name.Length] == '=' && pair.StartsWith(name, StringComparison.Ordinal))
                {
                    value = pair[(name.Length + 1)..];
                    return true;
                }

                rest = end < 0 ? default : rest[(end + 1)..];
            }
        }

        value = default;
        return false;
    }
}
