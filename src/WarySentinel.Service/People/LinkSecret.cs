using System.Buffers.Text;
using System.Security.Cryptography;

namespace WarySentinel.Service.People;

/// <summary>What stands in a link that works once: 256 random bits in Base64url (RFC 4648 §5).</summary>
public static class LinkSecret
{
    private const int Bytes = 32;
    private const int Letters = 43;

    /// <summary>A new one.</summary>
    public static string New() => Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(Bytes));

    /// <summary>Whether a text could be one; nothing else is looked up.</summary>
    public static bool IsOne([System.Diagnostics.CodeAnalysis.NotNullWhen(true)] string? text) => text?.Length == Letters && Base64Url.IsValid(text);
}
