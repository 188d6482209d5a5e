namespace WarySentinel.Contract.Passwords;

/// <summary>A pass. <paramref name="Password"/> and <paramref name="Text"/> are told once, when it is drawn; <paramref name="Bits"/> says how strong it
/// is.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="Kind">The key of its kind, as audiences name it: <c>pass:KEY</c>.</param>
/// <param name="KindTitle">What its kind is called.</param>
/// <param name="Name">The sign-in name.</param>
/// <param name="Holder">Whose it is.</param>
/// <param name="Email">The e-mail address of whoever has it.</param>
/// <param name="CreatedAt">When it was made.</param>
/// <param name="From">Start.</param>
/// <param name="Until">End.</param>
/// <param name="WithdrawnAt">When it was withdrawn.</param>
/// <param name="Standing"><c>in-force</c>, <c>later</c>, <c>over</c>, <c>used-up</c> or <c>withdrawn</c>.</param>
/// <param name="Uses">How often it was used.</param>
/// <param name="MostUses">How often at most.</param>
/// <param name="Networks">From how many networks within the last 30 days.</param>
/// <param name="MostNetworks">From how many at most.</param>
/// <param name="LastUsedAt">When it was used last.</param>
/// <param name="OldUntil">Until when the password before works as well.</param>
/// <param name="Order">The order that it came by.</param>
/// <param name="Version">Counts its changes.</param>
/// <param name="Password">The password.</param>
/// <param name="Bits">Random bits of the password.</param>
/// <param name="Text">Words that are ready to send.</param>
/// <param name="FromText">The start as people type it.</param>
/// <param name="UntilText">The end as people type it: the last day that counts.</param>
public sealed record PassView(
    Guid Id, string Kind, string KindTitle, string Name, string Holder, string? Email, DateTimeOffset CreatedAt, DateTimeOffset? From, DateTimeOffset? Until,
    DateTimeOffset? WithdrawnAt, string Standing, int Uses, int? MostUses, int Networks, int? MostNetworks, DateTimeOffset? LastUsedAt,
    DateTimeOffset? OldUntil, string? Order, int Version, SecretText? Password, int? Bits, SecretText? Text, string? FromText, string? UntilText);

/// <summary>A pass to be made or changed.</summary>
/// <param name="Kind">The key of its kind.</param>
/// <param name="Holder">Whose it is.</param>
/// <param name="Name">The sign-in name; one is made where none is given. It stays as it is once made.</param>
/// <param name="Email">The e-mail address of whoever has it.</param>
/// <param name="From">Start: a moment, or a day of the site's time zone.</param>
/// <param name="Until">End: a moment, or the last day that counts.</param>
/// <param name="MostUses">How often it is used at most.</param>
/// <param name="MostNetworks">From how many networks within 30 days at most.</param>
/// <param name="Send">Whether it is sent to the address as it is made.</param>
public sealed record PassDraft(
    string? Kind, string? Holder, string? Name = null, string? Email = null, string? From = null, string? Until = null, int? MostUses = null,
    int? MostNetworks = null, bool Send = false);

/// <summary>Another end of a pass.</summary>
/// <param name="Until">A moment, the last day that counts, or <c>never</c>.</param>
public sealed record PassRenewal(string? Until);

/// <summary>Another password of a pass.</summary>
/// <param name="Overlap">How long the one before works as well (ISO 8601); <c>PT0S</c> ends it at once. Two days unless said.</param>
/// <param name="Send">Whether the new one is sent to the pass's address.</param>
public sealed record PassRotation(string? Overlap, bool Send = false);

/// <summary>What came of a file of passes. All of them are made, or none.</summary>
/// <param name="Stored">Whether they were made.</param>
/// <param name="Rows">How many rows there are.</param>
/// <param name="Passes">The passes, each with its password, which is told here and nowhere else.</param>
/// <param name="Faults">What is wrong with rows.</param>
public sealed record PassImportView(bool Stored, int Rows, IReadOnlyList<PassView> Passes, IReadOnlyList<PassRowFault> Faults);

/// <summary>What is wrong with a row.</summary>
/// <param name="Line">The line, from 1.</param>
/// <param name="Field">The column.</param>
/// <param name="Message">What is wrong.</param>
public sealed record PassRowFault(int Line, string Field, string Message);
