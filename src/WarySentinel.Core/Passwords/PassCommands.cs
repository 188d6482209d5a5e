using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Passwords;

/// <summary>What people write of a pass.</summary>
public sealed record PassTerms
{
    /// <summary>The key of its kind.</summary>
    public string? Kind { get; init; }

    /// <summary>Whose it is.</summary>
    public string? Holder { get; init; }

    /// <summary>The sign-in name; one is made of its kind where none is given.</summary>
    public string? Name { get; init; }

    /// <summary>The e-mail address that it is sent to; null to send it to nobody.</summary>
    public string? Email { get; init; }

    /// <summary>Start: a moment, or a day of the site's time zone.</summary>
    public string? From { get; init; }

    /// <summary>End: a moment, or the last day that counts.</summary>
    public string? Until { get; init; }

    /// <summary>How often it is used at most.</summary>
    public int? MostUses { get; init; }

    /// <summary>From how many networks it is used at most.</summary>
    public int? MostNetworks { get; init; }
}

/// <summary>What is drawn for a pass before it is made.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="Ending">What the sign-in name ends with, where none is given.</param>
/// <param name="Digest">Keyed digest of its password.</param>
public sealed record FreshPass(Guid Id, string Ending, Secret Digest);

/// <summary>Makes, renews, replaces and withdraws passes.</summary>
public static class PassCommands
{
    /// <summary>Most uses, or networks, that a bound may name.</summary>
    public const int Most = 1_000_000;

    private const int LongestStem = 24;

    /// <summary>Makes one.</summary>
    public static Outcome<Edit<Pass>> Add(Policy policy, PassTerms terms, FreshPass fresh, DateTimeOffset now)
    {
        var faults = new Faults();
        var made = Read(policy, terms, faults) with { Id = fresh.Id, Digest = fresh.Digest, CreatedAt = now };
        if (made.Name.Length == 0)
        {
            made = made with { Name = NameOf(made.Kind, fresh.Ending) };
        }

        return faults.Any ? faults.ToProblem()
            : new Edit<Pass>(new Edit("pass.add", made.Name, [new PassPut(made, 0)], null, Said(made)), made);
    }

    /// <summary>Changes whose it is, its dates and its bounds.</summary>
    public static Outcome<Edit<Pass>> Set(Policy policy, Pass? found, PassTerms terms, int? version)
    {
        if (found is null)
        {
            return Unknown;
        }

        if (version is not null && version != found.Version)
        {
            return Problem.Of(ProblemKind.Stale, "stale", found.Name);
        }

        if (found.WithdrawnAt is not null)
        {
            return Problem.Of(ProblemKind.Conflict, "pass-withdrawn", found.Name);
        }

        var faults = new Faults();
        var read = Read(policy, terms with { Name = found.Name }, faults);
        if (faults.Any)
        {
            return faults.ToProblem();
        }

        var after = found with
        {
            Kind = read.Kind,
            Holder = read.Holder,
            Email = read.Email,
            From = read.From,
            Until = read.Until,
            MostUses = read.MostUses,
            MostNetworks = read.MostNetworks,
        };
        return Changed("pass.set", found, after);
    }

    /// <summary>Gives it another end, and no other change: a moment, a day that is the last to count, or <c>never</c>.</summary>
    public static Outcome<Edit<Pass>> Renew(Policy policy, Pass? found, string? until) => found is null ? Unknown
        : string.IsNullOrWhiteSpace(until) ? Problem.In("until", "pass-until")
        : Set(policy, found, TermsOf(found) with { Until = until == "never" ? null : until }, null);

    /// <summary>Gives it another password; the one before works on for the overlap.</summary>
    public static Outcome<Edit<Pass>> Rotate(Pass? found, Secret digest, TimeSpan overlap, DateTimeOffset now)
    {
        if (found is null)
        {
            return Unknown;
        }

        if (found.WithdrawnAt is not null || found.Until <= now)
        {
            return Problem.Of(ProblemKind.Conflict, found.WithdrawnAt is null ? "pass-over" : "pass-withdrawn", found.Name);
        }

        var after = found with
        {
            Digest = digest,
            OldDigest = overlap > TimeSpan.Zero ? found.Digest : null,
            OldUntil = overlap > TimeSpan.Zero ? now + overlap : null,
            Version = found.Version + 1,
        };
        return new Edit<Pass>(new Edit("pass.rotate", found.Name, [new PassPut(after, found.Version), new PassSessionsCut(found.Id, now + overlap)], null,
            Said(after)), after);
    }

    /// <summary>Withdraws it; whoever came in by it is out at once.</summary>
    public static Outcome<Edit<Pass>> Withdraw(Pass? found, DateTimeOffset now) => found is null ? Unknown
        : found.WithdrawnAt is not null ? new Edit<Pass>(new Edit("pass.withdraw", found.Name, []), found)
        : Changed("pass.withdraw", found, found with { WithdrawnAt = now });

    /// <summary>What people would write of one.</summary>
    public static PassTerms TermsOf(Pass pass) => new()
    {
        Kind = pass.Kind, Holder = pass.Holder, Name = pass.Name, Email = pass.Email, From = pass.From is { } from ? SiteDates.Write(from) : null,
        Until = pass.Until is { } until ? SiteDates.Write(until) : null, MostUses = pass.MostUses, MostNetworks = pass.MostNetworks,
    };

    /// <summary>A sign-in name of a kind.</summary>
    public static string NameOf(string kind, string ending) => $"{(kind.Length > LongestStem ? kind[..LongestStem].TrimEnd('-') : kind)}-{ending}";

    private static Problem Unknown => Problem.Of(ProblemKind.NotFound, "pass-unknown");

    private static Outcome<Edit<Pass>> Changed(string action, Pass before, Pass after)
    {
        if (after == before)
        {
            return new Edit<Pass>(new Edit(action, before.Name, []), before);
        }

        after = after with { Version = before.Version + 1 };
        return new Edit<Pass>(new Edit(action, before.Name, [new PassPut(after, before.Version)], Said(before), Said(after)), after);
    }

    private static Pass Read(Policy policy, PassTerms terms, Faults faults)
    {
        var kind = terms.Kind?.Trim() ?? "";
        if (policy.FindDefinition(FactKind.Pass, kind) is null)
        {
            var near = Nearest.To(kind, policy.Definitions.Where(d => d.Kind == FactKind.Pass).Select(d => d.Key).Take(5000));
            faults.Bad("kind", near is null ? "standing-unknown" : "standing-unknown-near", "pass", kind, near);
        }

        var holder = terms.Holder?.Trim() ?? "";
        faults.Unless(holder.Length is > 0 and <= Pass.LongestHolder && PlainText.IsClean(holder), "holder", "pass-holder", Pass.LongestHolder);
        var name = Pass.NormaliseName(terms.Name ?? "");
        faults.Unless(name.Length == 0 || IsName(name), "name", "pass-name", Pass.LongestName);
        var email = string.IsNullOrWhiteSpace(terms.Email) ? null : EmailAddress.Normalise(terms.Email);
        faults.Unless(string.IsNullOrWhiteSpace(terms.Email) || email is not null, "email", "email-form", terms.Email);
        faults.Unless(terms.MostUses is null or (>= 1 and <= Most), "mostUses", "most-uses", Most);
        faults.Unless(terms.MostNetworks is null or (>= 1 and <= Most), "mostNetworks", "most-networks", Most);
        var (from, until) = SiteDates.ReadBoth(policy.Settings.TimeZone, terms.From, terms.Until, faults.Bad);
        return new Pass
        {
            Id = Guid.Empty, Kind = kind, Name = name, Holder = holder, Digest = "", CreatedAt = default, Email = email, From = from?.ToUniversalTime(),
            Until = until?.ToUniversalTime(), MostUses = terms.MostUses, MostNetworks = terms.MostNetworks,
        };
    }

    /// <summary>Letters, digits, dots, hyphens and underscores: a colon ends the name in Basic credentials (RFC 7617 §2), and an at sign makes it an
    /// address.</summary>
    private static bool IsName(string name) => name.Length is >= 3 and <= Pass.LongestName
        && name.All(c => c is (>= 'a' and <= 'z') or (>= '0' and <= '9') or '.' or '-' or '_');

    private static string Said(Pass pass) => string.Join(", ", new[]
    {
        "pass:" + pass.Kind, pass.Holder, pass.From is { } from ? "from " + SiteDates.Write(from) : null,
        pass.Until is { } until ? "until " + SiteDates.Write(until) : null, pass.MostUses is { } uses ? $"{uses} uses" : null,
        pass.MostNetworks is { } networks ? $"{networks} networks" : null,
    }.OfType<string>());
}
