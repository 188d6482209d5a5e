namespace WarySentinel.Contract.Files;

/// <summary>A folder of files behind one address that cannot be guessed, and that changes.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Item">The item whose files they are.</param>
/// <param name="Folder">The folder, beneath the one that the service keeps for all of them.</param>
/// <param name="Path">Where that is on the service's machine.</param>
/// <param name="Opens">Who gets in: <c>gate</c> (whom the gates of the item let), <c>address</c> (whoever has the present address).</param>
/// <param name="Guarded">Whether its gates keep it from guests.</param>
/// <param name="Every">How long an address lasts (ISO 8601); null for until it is changed by hand.</param>
/// <param name="Overlap">How long an address still works beside the next (ISO 8601).</param>
/// <param name="Since">Since when the present address is the present one.</param>
/// <param name="Until">When the next one takes its place.</param>
/// <param name="Files">How many files there are; null where the folder is not there. Counting ends at ten thousand.</param>
/// <param name="Bytes">How large they are together, in bytes.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record AreaView(
    string Key, string Title, string Item, string Folder, string Path, string Opens, bool Guarded, string? Every, string? Overlap, DateTimeOffset Since,
    DateTimeOffset? Until, int? Files, long? Bytes, int Version);

/// <summary>An area to be stored.</summary>
/// <param name="Title">What people call it; the title of the item unless said.</param>
/// <param name="Item">The item whose files they are, such as <c>download:sky-atlas</c>.</param>
/// <param name="Folder">The folder, beneath the one that the service keeps for all of them; that of its key unless said.</param>
/// <param name="Opens">Who gets in: <c>gate</c> or <c>address</c>; <c>gate</c> unless said.</param>
/// <param name="Every">How long an address lasts (ISO 8601, a day or more); until it is changed by hand unless said.</param>
/// <param name="Overlap">How long an address still works beside the next (ISO 8601); a day unless said.</param>
public sealed record AreaDraft(
    string? Title = null, string? Item = null, string? Folder = null, string? Opens = null, string? Every = null, string? Overlap = null);

/// <summary>Where an area is found.</summary>
/// <param name="Address">The present address. It is a secret: whoever has it may get in.</param>
/// <param name="Standing">The address that leads whoever may have it to the present one, always; null where no gate says who may.</param>
/// <param name="Until">Until when the present address leads there; null for until it is changed by hand.</param>
public sealed record AreaAddressView(string Address, string? Standing, DateTimeOffset? Until);

/// <summary>What stands in an area.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Bytes">How large it is, in bytes; null for a folder.</param>
/// <param name="At">When it was last written.</param>
public sealed record AreaFileView(string Name, long? Bytes, DateTimeOffset At);
