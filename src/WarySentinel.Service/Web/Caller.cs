using WarySentinel.Core;

namespace WarySentinel.Service.Web;

/// <summary>Who calls the API, and what they may.</summary>
/// <param name="Name">For the audit trail.</param>
/// <param name="Scopes">What the call may do.</param>
/// <param name="IsOwner">Whether an owner stands behind it.</param>
/// <param name="Member">The member, where one stands behind it.</param>
public sealed record Caller(string Name, IReadOnlyList<string> Scopes, bool IsOwner, Guid? Member)
{
    /// <summary>The name of the staff right behind it.</summary>
    public string Right { get; init; } = "";

    /// <summary>The token that was sent, if one was.</summary>
    public Guid? Token { get; init; }

    /// <summary>Until when that counts; null for ever.</summary>
    public DateTimeOffset? TokenUntil { get; init; }

    /// <summary>The console session, if there is one.</summary>
    public Guid? Session { get; init; }

    /// <summary>The caller that was found for this request. Throws <see cref="InvalidOperationException"/> where none was.</summary>
    public static Caller Of(HttpContext http) => http.Features.Get<Caller>() ?? throw new InvalidOperationException("The call was not authenticated.");
}

/// <summary>Finds out who calls, or why nobody known does.</summary>
public delegate Task<Outcome<Caller>> ReadCaller(HttpContext http);
