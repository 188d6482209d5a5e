using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>A password of one gate, given to several people. It cannot be read back.</summary>
/// <param name="Id">Its name.</param>
/// <param name="Gate">The gate that it opens.</param>
/// <param name="Label">For whom it is.</param>
/// <param name="Digest">Keyed digest of the password, by which a typed one is found.</param>
/// <param name="Hash">Slow hash of the password, by which a typed one is proved.</param>
/// <param name="CreatedAt">When it was made.</param>
/// <param name="From">Start, or null for at once.</param>
/// <param name="Until">End, or null for never.</param>
/// <param name="WithdrawnAt">When it was withdrawn.</param>
/// <param name="Uses">How often it opened the gate.</param>
/// <param name="LastUsedAt">When it last did.</param>
public sealed record SharedPassword(
    Guid Id, string Gate, string Label, string Digest, string Hash, DateTimeOffset CreatedAt,
    DateTimeOffset? From = null, DateTimeOffset? Until = null, DateTimeOffset? WithdrawnAt = null, int Uses = 0, DateTimeOffset? LastUsedAt = null)
{
    /// <summary>Shortest password taken, in characters.</summary>
    public const int Shortest = 6;

    /// <summary>Longest password taken, in characters.</summary>
    public const int Longest = 200;

    /// <summary>Whether it opens its gate at that time.</summary>
    public bool IsInForce(DateTimeOffset now) => WithdrawnAt is null && (From is null || From <= now) && (Until is null || now < Until);

    /// <summary>The form in which passwords are compared: without the blanks around it that copying brings along.</summary>
    public static string Normalise(string typed) => typed.Trim();
}

/// <summary>Adds and withdraws shared passwords.</summary>
public static class SharedPasswordCommands
{
    /// <summary>Checks what is typed for a new one, before it is hashed.</summary>
    public static Problem? Check(Policy policy, string gate, string? label, string password, DateTimeOffset? from, DateTimeOffset? until)
    {
        if (policy.FindGate(gate) is not { } found)
        {
            return Problem.Of(ProblemKind.NotFound, "gate-unknown", gate);
        }

        if (!found.Audience.AsksForPassword)
        {
            return Problem.In("gate", "gate-takes-no-password", gate);
        }

        if (string.IsNullOrWhiteSpace(label) || label.Length > 120)
        {
            return Problem.In("label", "label-length", 120);
        }

        if (SharedPassword.Normalise(password).Length is < SharedPassword.Shortest or > SharedPassword.Longest)
        {
            return Problem.In("password", "shared-password-length", SharedPassword.Shortest, SharedPassword.Longest);
        }

        return from is not null && until is not null && until <= from ? Problem.In("until", "dates-order") : null;
    }

    /// <summary>Stores a new one. Refuses one that already opens the same gate.</summary>
    public static Outcome<Edit<SharedPassword>> Add(SharedPassword fresh, IReadOnlyList<SharedPassword> sameDigest, DateTimeOffset now) =>
        sameDigest.Any(p => p.Gate == fresh.Gate && p.WithdrawnAt is null && (p.Until is null || p.Until > now))
            ? Problem.Of(ProblemKind.Conflict, "shared-password-exists", fresh.Gate)
            : new Edit<SharedPassword>(new Edit("password.add", fresh.Gate, [new Change.SharedPasswordPut(fresh)], null, fresh.Label), fresh);

    /// <summary>Withdraws one; what it unlocked ends at once.</summary>
    public static Outcome<Edit<SharedPassword>> Withdraw(SharedPassword? found, DateTimeOffset now)
    {
        if (found is null)
        {
            return Problem.Of(ProblemKind.NotFound, "shared-password-unknown");
        }

        var ended = found.WithdrawnAt is null ? found with { WithdrawnAt = now } : found;
        return new Edit<SharedPassword>(new Edit("password.withdraw", found.Gate, [new Change.SharedPasswordPut(ended)], found.Label, null), ended);
    }
}
