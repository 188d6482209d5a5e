namespace WarySentinel.Service.Web;

/// <summary>The cookie of the framework's anti-forgery.</summary>
public static class AntiforgeryCookie
{
    /// <summary>Its name.</summary>
    public const string Name = "wary-form";
}
