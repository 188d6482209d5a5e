using WarySentinel.Core.Access;

namespace WarySentinel.Service.Pages;

/// <summary>What the sign-in page shows.</summary>
public sealed record SignInModel(string? Kicker, string? ReturnTo, string? Name, bool Keep, int Days, PageError? Error, string TokenField, string Token);

/// <summary>What the password prompt shows.</summary>
public sealed record UnlockModel(
    string? Kicker, string? Message, PromptWords Words, SiteLink? Link, string? Gate, string? ReturnTo, bool OffersSignIn, PageError? Error,
    string TokenField, string Token);

/// <summary>What the account page shows.</summary>
public sealed record AccountModel(
    string Name, IReadOnlyList<SiteLink> Links, IReadOnlyList<(string Title, string Until)> Held,
    IReadOnlyList<(SiteLink Link, bool Manages)> Organisations, IReadOnlyList<Device> Devices, string TokenField, string Token);

/// <summary>Somewhere that a member is signed in.</summary>
public sealed record Device(Guid Id, string Name, string Since, bool IsThis);

/// <summary>What a page with a message shows.</summary>
public sealed record MessageModel(string Title, IReadOnlyList<string> Lines)
{
    /// <summary>The small line above the title.</summary>
    public string? Kicker { get; init; }

    /// <summary>The name of the anti-forgery field.</summary>
    public string TokenField { get; init; } = "";

    /// <summary>An anti-forgery token, where the page offers signing out.</summary>
    public string? SignOutToken { get; init; }

    /// <summary>The words on that button.</summary>
    public string SignOutWords { get; init; } = "";

    /// <summary>Where signing out leads.</summary>
    public string? SignOutTo { get; init; }

    /// <summary>Links that lead on.</summary>
    public IReadOnlyList<SiteLink> Links { get; init; } = [];

    /// <summary>Whether it offers signing in.</summary>
    public bool SignIn { get; init; }
}
