namespace WarySentinel.Contract.Audio;

/// <summary>A show that is listened to on its page and by feeds.</summary>
/// <param name="Key">The key of its item.</param>
/// <param name="Title">What people call it.</param>
/// <param name="By">Who makes it.</param>
/// <param name="Notes">What it is about.</param>
/// <param name="Language">The language that is spoken in it; the site's unless said.</param>
/// <param name="Picture">The way to its picture in its folder.</param>
/// <param name="Path">Where its folder is on the service's machine.</param>
/// <param name="Address">The address of its page.</param>
/// <param name="Guarded">Whether gates keep it from guests.</param>
/// <param name="Episodes">Its episodes, the newest first.</param>
/// <param name="Subscribers">How many members have a feed of their own.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record ShowView(
    string Key, string Title, string? By, string? Notes, string? Language, string? Picture, string Path, string Address, bool Guarded,
    IReadOnlyList<EpisodeView> Episodes, int Subscribers, int Version);

/// <summary>An episode of a show.</summary>
/// <param name="Item">The item, such as <c>episode:hours-01</c>.</param>
/// <param name="Title">What people call it.</param>
/// <param name="File">The way to its file in the folder of the show.</param>
/// <param name="At">Since when it is out.</param>
/// <param name="Day">The same as people type it: a day, or a moment, in the site's time zone.</param>
/// <param name="IsOut">Whether it is out by now.</param>
/// <param name="Notes">What it is about.</param>
/// <param name="Length">How long it lasts, such as <c>42:10</c>.</param>
/// <param name="Bytes">How large its file is, in bytes; null where it is not there, and the episode is heard nowhere.</param>
/// <param name="Guarded">Whether gates keep it from guests.</param>
public sealed record EpisodeView(
    string Item, string Title, string File, DateTimeOffset At, string Day, bool IsOut, string? Notes, string? Length, long? Bytes, bool Guarded);

/// <summary>A show to be stored.</summary>
/// <param name="By">Who makes it.</param>
/// <param name="Notes">What it is about, in plain words.</param>
/// <param name="Language">The language that is spoken in it (RFC 5646); the site's unless said.</param>
/// <param name="Picture">The way to its picture in its folder: a JPEG, PNG or WebP.</param>
/// <param name="Episodes">Its episodes; those that there are stay where none are named.</param>
public sealed record ShowDraft(
    string? By = null, string? Notes = null, string? Language = null, string? Picture = null, IReadOnlyList<EpisodeDraft>? Episodes = null);

/// <summary>An episode to be stored.</summary>
/// <param name="Item">The item, such as <c>episode:hours-01</c>; it stands beneath the show in the catalogue.</param>
/// <param name="File">The way to its file in the folder of the show, such as <c>hours-01.mp3</c>.</param>
/// <param name="At">Since when it is out: a moment, or a day in the site's time zone; now unless said.</param>
/// <param name="Notes">What it is about, in plain words.</param>
/// <param name="Length">How long it lasts, such as <c>42:10</c> or <c>1:02:10</c>.</param>
public sealed record EpisodeDraft(string? Item, string? File, string? At = null, string? Notes = null, string? Length = null);

/// <summary>A member with a feed of a show.</summary>
/// <param name="Member">Their id.</param>
/// <param name="Name">Their name.</param>
/// <param name="Email">Their e-mail address.</param>
/// <param name="Since">Since when they have their present address.</param>
/// <param name="ReadAt">When it was last read, to the hour; null for never.</param>
/// <param name="ReadBy">What it was last read by, as that calls itself.</param>
public sealed record SubscriberView(Guid Member, string Name, string Email, DateTimeOffset Since, DateTimeOffset? ReadAt, string? ReadBy);

/// <summary>A member's own feed of a show.</summary>
/// <param name="Address">Its address. It is a secret: whoever has it hears what the member may hear.</param>
/// <param name="Since">Since when that is their address.</param>
/// <param name="ReadAt">When it was last read, to the hour; null for never.</param>
/// <param name="ReadBy">What it was last read by, as that calls itself.</param>
public sealed record FeedView(string Address, DateTimeOffset Since, DateTimeOffset? ReadAt, string? ReadBy);
