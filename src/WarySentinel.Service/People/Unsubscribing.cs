using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;

namespace WarySentinel.Service.People;

/// <summary>The address by which the reader of a letter says that they want no more of its kind (RFC 8058); it lasts as long as the letter does.</summary>
public sealed class Unsubscribing(IDataProtectionProvider protection, ServiceOptions options)
{
    /// <summary>What mail programs send to it (RFC 8058 §3.1).</summary>
    public const string OneClick = "List-Unsubscribe=One-Click";

    private readonly IDataProtector seal = protection.CreateProtector("unsubscribe");

    /// <summary>The page for an e-mail address.</summary>
    public string PageOf(string address) => $"{options.SiteUrl.TrimEnd('/')}{options.AccountPrefix}/letters?who={seal.Protect(address)}";

    /// <summary>The e-mail address that a page is of; null where it is of none.</summary>
    public string? AddressIn(string? who)
    {
        try
        {
            return who is { Length: > 0 and < 2000 } ? seal.Unprotect(who) : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }
}
