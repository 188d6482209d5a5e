namespace WarySentinel.Contract.People;

/// <summary>The directory of members who agreed to stand in it.</summary>
/// <param name="Audience">Who may look at it; null or empty where there is none.</param>
/// <param name="Title">Its heading.</param>
/// <param name="Lead">What stands beneath it.</param>
/// <param name="Fields">The keys of the fields that members may show in it, in their order.</param>
public sealed record DirectoryDraft(string? Audience = null, string? Title = null, string? Lead = null, IReadOnlyList<string>? Fields = null);

/// <summary>The directory, and where it stands.</summary>
/// <param name="Directory">What is set of it.</param>
/// <param name="Who">Who may look at it, in words; null where there is none.</param>
/// <param name="Address">The address of its page.</param>
/// <param name="Listed">How many members stand in it.</param>
/// <param name="Version">Counts its changes; the ETag.</param>
public sealed record DirectoryView(DirectoryDraft Directory, string? Who, string Address, int Listed, int Version);

/// <summary>What a member shows of themselves in the directory.</summary>
/// <param name="Listed">Whether they stand in it.</param>
/// <param name="Fields">The keys of the fields that they show beside their name.</param>
public sealed record ListingView(bool Listed, IReadOnlyList<string> Fields);
