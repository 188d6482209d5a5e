namespace WarySentinel.Core.Access;

/// <summary>What the guarded site is told of whoever asks, as the owner chooses (docs/how-to/what-the-site-learns.md).</summary>
public static class OriginFacts
{
    /// <summary>The member's e-mail address.</summary>
    public const string Member = "member";

    /// <summary>The names of gates that the request passed.</summary>
    public const string Gates = "gates";

    /// <summary>All that is told, signed, so that the site can prove that a request came through us.</summary>
    public const string Token = "token";

    /// <summary>Everything that can be told.</summary>
    public static readonly IReadOnlyList<string> All = [Member, "roles", "groups", "plans", Gates, Token];

    /// <summary>What is told unless the owner says otherwise.</summary>
    public static readonly IReadOnlyList<string> Usual = [Member, "roles"];
}
