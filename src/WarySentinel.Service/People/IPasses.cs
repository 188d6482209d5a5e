using WarySentinel.Core.Facts;

namespace WarySentinel.Service.People;

/// <summary>A pass that somebody came in by.</summary>
/// <param name="Id">The pass.</param>
/// <param name="Name">Its sign-in name.</param>
/// <param name="Grant">What it gives.</param>
/// <param name="Version">The state that it was found in.</param>
public sealed record HeldPass(Guid Id, string Name, Grant Grant, int Version);

/// <summary>A pass whose name and password were right.</summary>
/// <param name="Pass">The pass; null where it may not be used.</param>
/// <param name="Until">Until when that password counts; null for as long as the pass does.</param>
/// <param name="Words">Why it may not be used, to whoever has proved that it is theirs.</param>
public sealed record ProvedPass(HeldPass? Pass, DateTimeOffset? Until, string? Words);

/// <summary>Knows passes: names with passwords that belong to no account.</summary>
public interface IPasses
{
    /// <summary>A pass that counts now; null where it is over, or was never there.</summary>
    Task<HeldPass?> FindAsync(Guid id, CancellationToken stop);

    /// <summary>Tries a name and a password, and counts the use; null where they are not right.</summary>
    Task<ProvedPass?> ProveAsync(string name, string password, string network, CancellationToken stop);
}
