namespace WarySentinel.Core.Catalogue;

/// <summary>Where a visitor goes back to: only ever an address on this site.</summary>
public static class ReturnTo
{
    /// <summary>Whether the address is a path on this site that no browser reads as another site.</summary>
    public static bool IsOnThisSite(string? address)
    {
        if (string.IsNullOrEmpty(address) || address.Length > 2048 || address[0] != '/' || address.StartsWith("//", StringComparison.Ordinal))
        {
            return false;
        }

        foreach (var c in address)
        {
            if (c is < (char)0x21 or > (char)0x7e or '\\')
            {
                return false;
            }
        }

        var path = address.Split('?', 2)[0];
        return !path.Contains("//", StringComparison.Ordinal) && RequestPath.TryNormalise(address.Split('#', 2)[0], new PathRules(), out _, out _);
    }

    /// <summary>The address itself when it is on this site, else the other one.</summary>
    public static string OrElse(string? address, string otherwise) => IsOnThisSite(address) ? address! : otherwise;
}
