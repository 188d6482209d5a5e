namespace WarySentinel.Contract.Pages;

/// <summary>A page that the service has for visitors.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Use">For whom it is of use: <c>guests</c>, <c>members</c>, <c>everybody</c>.</param>
/// <param name="Stands">The address at which it stands, such as <c>/account/sign-in</c>; null for one that is shown wherever it is needed.</param>
/// <param name="Address">An address of its own; null for the usual one.</param>
/// <param name="Off">Whether the site does without it.</param>
/// <param name="CanBeOff">Whether a site may.</param>
/// <param name="Menu">Whether it stands in the site's menu; null where it makes no sense in one.</param>
/// <param name="Groups">The groups of texts that it is made of.</param>
/// <param name="Look">The address at which the console shows it, with a guest or a member who is made up; null where there is nothing to look at.</param>
/// <param name="Version">Counts its changes; 0 for as usual.</param>
/// <param name="Done">The occasion of redirects on which it is done, such as <c>sign-in</c>; null where it leads nowhere.</param>
public sealed record VisitorPageView(
    string Key, string Title, string Use, string? Stands, string? Address, bool Off, bool CanBeOff, bool? Menu, IReadOnlyList<string> Groups, string? Look,
    int Version, string? Done = null);

/// <summary>What is to be set of a page; what is null is as usual.</summary>
/// <param name="Address">An address of its own on the site.</param>
/// <param name="Off">Whether the site does without it.</param>
/// <param name="Menu">Whether it stands in the site's menu.</param>
public sealed record VisitorPageDraft(string? Address = null, bool? Off = null, bool? Menu = null);
