using WarySentinel.Core.Access;

namespace WarySentinel.Service.Pages;

/// <summary>What the sign-in page shows.</summary>
public sealed record SignInModel(string? Kicker, string? ReturnTo, string? Name, bool Keep, int Days, PageError? Error, string TokenField, string Token)
{
    /// <summary>Whether they were signed in with this browser, and are no longer.</summary>
    public bool HasEnded { get; init; }
}

/// <summary>What the password prompt shows.</summary>
public sealed record UnlockModel(
    string? Kicker, string? Message, PromptWords Words, SiteLink? Link, string? Gate, string? ReturnTo, bool OffersSignIn, PageError? Error,
    string TokenField, string Token);

/// <summary>What the account page shows.</summary>
public sealed record AccountModel(
    string Name, IReadOnlyList<SiteLink> Links, IReadOnlyList<(string Title, string Until, string? Renew)> Held,
    IReadOnlyList<(SiteLink Link, bool Manages)> Organisations, IReadOnlyList<Device> Devices, string TokenField, string Token)
{
    /// <summary>The downloads that are theirs.</summary>
    public IReadOnlyList<SiteLink> Downloads { get; init; } = [];

    /// <summary>The folders to download from that are theirs.</summary>
    public IReadOnlyList<SiteLink> Folders { get; init; } = [];

    /// <summary>The shows that are theirs to listen to.</summary>
    public IReadOnlyList<SiteLink> Shows { get; init; } = [];

    /// <summary>What they bought and does not run, with why.</summary>
    public IReadOnlyList<(IdlePlan Plan, string Why)> Idle { get; init; } = [];

    /// <summary>Their orders, and the day of each.</summary>
    public IReadOnlyList<(BoughtLine Order, string Day)> Orders { get; init; } = [];

    /// <summary>What they may have off, and until when.</summary>
    public IReadOnlyList<(OfferLine Offer, string Until)> Offers { get; init; } = [];

    /// <summary>Whether they may look at the directory.</summary>
    public bool HasDirectory { get; init; }

    /// <summary>Whether the site has terms.</summary>
    public bool HasTerms { get; init; }
}

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

/// <summary>What a page with one question shows, or with none but its button.</summary>
/// <param name="Title">The heading.</param>
/// <param name="Lead">What it is about.</param>
/// <param name="To">Where the form goes, beneath the account pages.</param>
/// <param name="Label">The label of the field; null where there is only a button.</param>
/// <param name="Field">The name of the field.</param>
/// <param name="Value">What stands in it.</param>
/// <param name="Autocomplete">What browsers fill in (HTML §4.10.18.7).</param>
/// <param name="Button">The words on the button.</param>
/// <param name="Error">What is wrong.</param>
public sealed record AskModel(
    string Title, string Lead, string To, string? Label, string Field, string? Value, string Autocomplete, string Button, PageError? Error)
{
    /// <summary>Whether it asks for a code.</summary>
    public bool IsCode { get; init; }

    /// <summary>What stands beneath.</summary>
    public string? Foot { get; init; }
}

/// <summary>How somebody wants to be written to.</summary>
/// <param name="Address">Their e-mail address.</param>
/// <param name="Who">The sealed address where they came from a letter; null where they are signed in.</param>
/// <param name="Languages">The languages there are letters in: tag, and its own name for itself.</param>
/// <param name="Language">The one they chose; null for the site's.</param>
/// <param name="Unsubscribed">Whether they get no letters but those that have to be.</param>
/// <param name="Saved">Whether it was just saved.</param>
/// <param name="Error">What is wrong.</param>
public sealed record LetterWishModel(
    string Address, string? Who, IReadOnlyList<(string Tag, string Name)> Languages, string? Language, bool Unsubscribed, bool Saved, PageError? Error);

/// <summary>What a page shows where a password is chosen.</summary>
/// <param name="Title">The heading.</param>
/// <param name="Lead">What it is about.</param>
/// <param name="To">Where the form goes, beneath the account pages.</param>
/// <param name="Address">Whose password it is, for the browser to keep it under.</param>
public sealed record PasswordModel(string Title, string Lead, string To, string Address)
{
    /// <summary>What stands in the link.</summary>
    public string? Secret { get; init; }

    /// <summary>Whether the name is asked for.</summary>
    public bool AsksName { get; init; }

    /// <summary>The name as far as it is known.</summary>
    public string? Name { get; init; }

    /// <summary>Whether the password of before is asked for.</summary>
    public bool AsksCurrent { get; init; }

    /// <summary>The words on the button.</summary>
    public string Button { get; init; } = "";

    /// <summary>What is wrong.</summary>
    public PageError? Error { get; init; }
}
