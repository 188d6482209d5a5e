using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Passwords;

/// <summary>A password of one gate, given to several people. It cannot be read back, but by letters to buyers where it is made for them.</summary>
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
/// <param name="MostUses">How often it opens the gate at most; null for no bound.</param>
/// <param name="Asked">Who is asked for it at all, and whom it opens anything to.</param>
/// <param name="Replaces">The password whose place it takes.</param>
public sealed record SharedPassword(
    Guid Id, string Gate, string Label, Secret Digest, Secret Hash, DateTimeOffset CreatedAt,
    DateTimeOffset? From = null, DateTimeOffset? Until = null, DateTimeOffset? WithdrawnAt = null, int Uses = 0, DateTimeOffset? LastUsedAt = null,
    int? MostUses = null, Audience? Asked = null, Guid? Replaces = null)
{
    /// <summary>Shortest password taken, in characters.</summary>
    public const int Shortest = 6;

    /// <summary>The password itself, sealed by the service, where letters to buyers tell it; null where nobody can read it back.</summary>
    public Secret? Sealed { get; init; }

    /// <summary>Longest password taken, in characters.</summary>
    public const int Longest = 200;

    /// <summary>Whether it opens its gate at that time.</summary>
    public bool IsInForce(DateTimeOffset now) =>
        WithdrawnAt is null && (From is null || From <= now) && (Until is null || now < Until) && (MostUses is null || Uses < MostUses);

    /// <summary>Whether that visitor is asked for it.</summary>
    public bool Asks(Visitor visitor, DateTimeOffset now) => Asked is null || Asked.Admits(visitor, Gate, now);

    /// <summary>What the policy knows of it: who is asked for it, and when.</summary>
    public PasswordAsk Ask => new(Id, Gate, Asked ?? Audience.Anyone, From, Until, WithdrawnAt);

    /// <summary>The form in which passwords are compared: in one spelling, without the blanks around it that copying brings along.</summary>
    public static string Normalise(string typed) => Spelling.OfPassword(typed).Trim();

    /// <summary>The forms that a typed password may have been kept in: the one of today, and as it was typed, which earlier versions kept.</summary>
    public static IReadOnlyList<string> Spellings(string typed) =>
        Normalise(typed) is var now && typed.Trim() is var then && now != then ? [now, then] : [now];
}

/// <summary>What a shared password to be added says beside its secret.</summary>
public sealed record SharedPasswordTerms(
    string? Gate, string? Label, DateTimeOffset? From = null, DateTimeOffset? Until = null, int? MostUses = null, string? Asked = null)
{
    /// <summary>Whether letters to buyers tell it, as a fulfilment rule says, so that it is kept sealed.</summary>
    public bool ForOrders { get; init; }
}

/// <summary>Adds, replaces and withdraws shared passwords.</summary>
public static class SharedPasswordCommands
{
    /// <summary>Checks what is wanted, before it is hashed.</summary>
    public static Problem? Check(Policy policy, SharedPasswordTerms terms, string password, IKnownKeys? known)
    {
        if (policy.FindGate(terms.Gate ?? "") is not { } found)
        {
            return Problem.Of(ProblemKind.NotFound, "gate-unknown", terms.Gate);
        }

        if (!found.Audience.AsksForPassword || found.IsExemption)
        {
            return Problem.In("gate", "gate-takes-no-password", terms.Gate);
        }

        if (string.IsNullOrWhiteSpace(terms.Label) || terms.Label.Length > 120 || !PlainText.IsClean(terms.Label))
        {
            return Problem.In("label", "label-length", 120);
        }

        if (SharedPassword.Normalise(password).Length is < SharedPassword.Shortest or > SharedPassword.Longest)
        {
            return Problem.In("password", "shared-password-length", SharedPassword.Shortest, SharedPassword.Longest);
        }

        if (terms.MostUses is < 1 or > 1_000_000)
        {
            return Problem.In("mostUses", "most-uses", 1_000_000);
        }

        if (!string.IsNullOrWhiteSpace(terms.Asked) && AudienceParser.Parse(terms.Asked, known) is { Problem: { } bad })
        {
            return bad with { Faults = [.. bad.Faults.Select(f => f with { Field = "asked" })] };
        }

        return terms.From is not null && terms.Until is not null && terms.Until <= terms.From ? Problem.In("until", "dates-order") : null;
    }

    /// <summary>Stores a new one. Refuses one that already opens the same gate.</summary>
    public static Outcome<Edit<SharedPassword>> Add(
        SharedPassword fresh, IReadOnlyList<SharedPassword> sameDigest, IReadOnlyList<Change> messages, DateTimeOffset now) =>
        sameDigest.Any(p => p.Gate == fresh.Gate && p.WithdrawnAt is null && (p.Until is null || p.Until > now))
            ? Problem.Of(ProblemKind.Conflict, "shared-password-exists", fresh.Gate)
            : new Edit<SharedPassword>(new Edit("password.add", fresh.Gate, [new SharedPasswordPut(fresh), .. messages], null, fresh.Label), fresh);

    /// <summary>Puts a fresh one in the place of another, which works on for the overlap and not longer.</summary>
    public static Outcome<Edit<SharedPassword>> Rotate(
        SharedPassword? old, SharedPassword fresh, TimeSpan overlap, IReadOnlyList<Change> messages, DateTimeOffset now)
    {
        if (old is null)
        {
            return Problem.Of(ProblemKind.NotFound, "shared-password-unknown");
        }

        if (!old.IsInForce(now))
        {
            return Problem.Of(ProblemKind.Conflict, "shared-password-over", old.Label);
        }

        var end = now + overlap;
        // Letters tell the one that takes its place from now on.
        var ending = old with { Until = old.Until < end ? old.Until : end, Sealed = null };
        return new Edit<SharedPassword>(
            new Edit("password.rotate", old.Gate, [new SharedPasswordPut(ending), new SharedPasswordPut(fresh), .. messages], old.Label,
            fresh.Label), fresh);
    }

    /// <summary>Withdraws one; what it unlocked ends at once.</summary>
    public static Outcome<Edit<SharedPassword>> Withdraw(SharedPassword? found, DateTimeOffset now)
    {
        if (found is null)
        {
            return Problem.Of(ProblemKind.NotFound, "shared-password-unknown");
        }

        var ended = found.WithdrawnAt is null ? found with { WithdrawnAt = now, Sealed = null } : found;
        return new Edit<SharedPassword>(new Edit("password.withdraw", found.Gate, [new SharedPasswordPut(ended)], found.Label, null), ended);
    }

    /// <summary>The passwords of a gate that its rotation replaces now: old enough, in force, and not replaced yet.</summary>
    public static IEnumerable<SharedPassword> Due(Gate gate, IReadOnlyList<SharedPassword> passwords, DateTimeOffset now) =>
        gate.Rotation is not { } rotation ? []
            : passwords.Where(p => p.Gate == gate.Key && p.IsInForce(now) && p.CreatedAt + rotation.Every <= now && !passwords.Any(o => o.Replaces == p.Id));
}

/// <summary>Stores a shared password; who is asked for it is the policy's.</summary>
public sealed record SharedPasswordPut(SharedPassword Password) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(draft.Part<PasswordAsks>().With(Password.Ask));
}
