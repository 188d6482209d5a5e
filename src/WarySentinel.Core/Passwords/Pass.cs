using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Passwords;

/// <summary>
/// A sign-in name with a generated password and no account: for an organisation, one buyer, one set of files. Gates that ask for <c>pass:KEY</c> admit
/// whoever comes with a pass of that kind (docs/how-to/passes.md).
/// </summary>
public sealed record Pass
{
    /// <summary>Longest sign-in name, in characters.</summary>
    public const int LongestName = 40;

    /// <summary>Longest text that says whose it is, in characters.</summary>
    public const int LongestHolder = 120;

    /// <summary>How long what comes from one network is one use.</summary>
    public static readonly TimeSpan UseLasts = TimeSpan.FromHours(12);

    /// <summary>How long a network that it was used from counts as one of its networks.</summary>
    public static readonly TimeSpan NetworkLasts = TimeSpan.FromDays(30);

    /// <summary>Its own name.</summary>
    public required Guid Id { get; init; }

    /// <summary>The key of its kind, that audiences name.</summary>
    public required string Kind { get; init; }

    /// <summary>The sign-in name, in lower case; no two passes share one.</summary>
    public required string Name { get; init; }

    /// <summary>Whose it is.</summary>
    public required string Holder { get; init; }

    /// <summary>Keyed digest of its password, which is drawn at random and long enough not to be guessed from it.</summary>
    public required Secret Digest { get; init; }

    /// <summary>Keyed digest of the password that it had before; null where that is over.</summary>
    public Secret? OldDigest { get; init; }

    /// <summary>Until when the password before works as well.</summary>
    public DateTimeOffset? OldUntil { get; init; }

    /// <summary>The e-mail address of whoever has it, where it was sent to one.</summary>
    public string? Email { get; init; }

    /// <summary>When it was made.</summary>
    public required DateTimeOffset CreatedAt { get; init; }

    /// <summary>Start; null for at once.</summary>
    public DateTimeOffset? From { get; init; }

    /// <summary>End; null for never.</summary>
    public DateTimeOffset? Until { get; init; }

    /// <summary>When it was withdrawn.</summary>
    public DateTimeOffset? WithdrawnAt { get; init; }

    /// <summary>How often it is used at most; null for no bound.</summary>
    public int? MostUses { get; init; }

    /// <summary>How often it was used.</summary>
    public int Uses { get; init; }

    /// <summary>From how many networks it is used at most within <see cref="NetworkLasts"/>; null for no bound.</summary>
    public int? MostNetworks { get; init; }

    /// <summary>When it was used last.</summary>
    public DateTimeOffset? LastUsedAt { get; init; }

    /// <summary>The order that it came by, as <c>order SOURCE/KEY</c> is named; null where it was made by hand.</summary>
    public string? Order { get; init; }

    /// <summary>Counts its changes, from 1; uses are none.</summary>
    public int Version { get; init; } = 1;

    /// <summary>Whether it is open to be used at that time; how often it was used is asked where a use is counted.</summary>
    public bool IsInForce(DateTimeOffset now) => WithdrawnAt is null && (From is null || From <= now) && (Until is null || now < Until);

    /// <summary>How it stands: <c>in-force</c>, <c>later</c>, <c>over</c>, <c>used-up</c> or <c>withdrawn</c>.</summary>
    public string StandingAt(DateTimeOffset now) => WithdrawnAt is not null ? "withdrawn" : Until <= now ? "over" : From > now ? "later"
        : Uses >= MostUses ? "used-up" : "in-force";

    /// <summary>Whether a password with that keyed digest is its own at that time; compared in constant time.</summary>
    public bool IsProvedBy(string digest, DateTimeOffset now)
    {
        bool Same(Secret kept) => System.Security.Cryptography.CryptographicOperations.FixedTimeEquals(
            System.Text.Encoding.ASCII.GetBytes(kept.Reveal()), System.Text.Encoding.ASCII.GetBytes(digest));
        return Same(Digest) | (OldDigest is { } old && now < OldUntil && Same(old));
    }

    /// <summary>What whoever has it holds.</summary>
    public Grant ToGrant() => new(FactKind.Pass, Kind, From, WithdrawnAt ?? Until) { Id = Id };

    /// <summary>The form in which sign-in names are kept and compared.</summary>
    public static string NormaliseName(string typed) => typed.Trim().ToLowerInvariant();
}

/// <summary>Stores a pass; <paramref name="Was"/> is the version that it had, 0 for a new one.</summary>
public sealed record PassPut(Pass Pass, int Was) : Change.OfPeople;

/// <summary>Whoever is in by a pass now is out at a time, if not before.</summary>
public sealed record PassSessionsCut(Guid Pass, DateTimeOffset At) : Change.OfPeople;
