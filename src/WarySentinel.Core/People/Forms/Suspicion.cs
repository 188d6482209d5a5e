namespace WarySentinel.Core.People.Forms;

/// <summary>How a form came in, as far as a machine can see.</summary>
public sealed record JoinTraffic
{
    /// <summary>Whether the field was filled in that people don't see.</summary>
    public bool FilledDecoy { get; init; }

    /// <summary>How long it was looked at before it was sent; null where nobody knows.</summary>
    public TimeSpan? LookedAt { get; init; }

    /// <summary>Whether the browser did the work it was given; null where it has no scripts.</summary>
    public bool? DidWork { get; init; }

    /// <summary>How many forms came from its network in the last hour.</summary>
    public int FromNetwork { get; init; }

    /// <summary>How many forms came with its mail domain in the last hour, from whatever network.</summary>
    public int FromDomain { get; init; }

    /// <summary>The name.</summary>
    public string Name { get; init; } = "";

    /// <summary>The mail domain.</summary>
    public string Domain { get; init; } = "";

    /// <summary>What the owner says of that domain.</summary>
    public MailDomain Kind { get; init; }
}

/// <summary>What is known of a mail domain.</summary>
public enum MailDomain
{
    /// <summary>Nothing.</summary>
    Unknown,
    /// <summary>Many people have theirs there, or the owner trusts it.</summary>
    Trusted,
    /// <summary>Addresses that anybody has for some minutes.</summary>
    Disposable,
    /// <summary>It looks like one that many people have, and is another.</summary>
    LookAlike,
    /// <summary>The owner wants nobody from there.</summary>
    Blocked,
}

/// <summary>Tells who looks like a sham, and why (docs/explanation/sham-accounts.md). Nobody is dropped by it: they are held back, and staff see the
/// signs.</summary>
public static class Suspicion
{
    /// <summary>The sum of weights from which somebody is held back.</summary>
    public const int Held = 60;

    private static readonly Dictionary<string, int> Weights = new(StringComparer.Ordinal)
    {
        ["decoy"] = 100, ["blocked-domain"] = 100, ["disposable"] = 60, ["look-alike"] = 35, ["fast"] = 60, ["quick"] = 25, ["no-work"] = 60,
        ["no-script"] = 20,
        ["network-flood"] = 60, ["network-crowd"] = 40, ["network-busy"] = 30, ["domain-flood"] = 40, ["link-in-name"] = 60, ["odd-name"] = 25,
    };

    /// <summary>The kinds of signs.</summary>
    public static readonly IReadOnlyList<string> Kinds = [.. Weights.Keys];

    private static readonly TimeSpan Fast = TimeSpan.FromSeconds(2);
    private static readonly TimeSpan Quick = TimeSpan.FromSeconds(4);

    /// <summary>Whether somebody with these signs is held back.</summary>
    public static bool IsHeld(IReadOnlyList<Sign> signs) => signs.Sum(s => Weights.GetValueOrDefault(s.Kind)) >= Held;

    /// <summary>What of it looks like a sham.</summary>
    public static IReadOnlyList<Sign> SignsOf(JoinTraffic traffic)
    {
        var signs = new List<Sign>();
        void When(bool seen, string kind, string? what = null) => signs.AddRange(seen ? [new Sign(kind, what)] : []);
        When(traffic.FilledDecoy, "decoy");
        When(traffic.Kind == MailDomain.Blocked, "blocked-domain", traffic.Domain);
        When(traffic.Kind == MailDomain.Disposable, "disposable", traffic.Domain);
        When(traffic.Kind == MailDomain.LookAlike, "look-alike", traffic.Domain);
        When(traffic.LookedAt < Fast, "fast", Seconds(traffic.LookedAt));
        When(traffic.LookedAt >= Fast && traffic.LookedAt < Quick, "quick", Seconds(traffic.LookedAt));
        When(traffic.DidWork == false, "no-work");
        When(traffic.DidWork is null, "no-script");
        // A class in one room is many from one network, each with a browser that does its work.
        var isCrowd = traffic is { DidWork: true, FromNetwork: <= 200 };
        When(traffic.FromNetwork > 20, isCrowd ? "network-crowd" : "network-flood", Count(traffic.FromNetwork));
        When(traffic.FromNetwork is > 5 and <= 20, "network-busy", Count(traffic.FromNetwork));
        When(traffic.Kind != MailDomain.Trusted && traffic.FromDomain > 10, "domain-flood", Count(traffic.FromDomain));
        When(HasLink(traffic.Name), "link-in-name");
        When(IsOdd(traffic.Name), "odd-name");
        return signs;
    }

    private static string? Seconds(TimeSpan? time) => time?.TotalSeconds.ToString("0.0", System.Globalization.CultureInfo.InvariantCulture);

    private static string Count(int number) => number.ToString(System.Globalization.CultureInfo.InvariantCulture);

    private static bool HasLink(string name) => name.Contains("://", StringComparison.Ordinal) || name.Contains("www.", StringComparison.OrdinalIgnoreCase);

    /// <summary>Letters as a machine strings them together: five consonants in a row, or digits among letters.</summary>
    private static bool IsOdd(string name)
    {
        var (run, digits, letters) = (0, 0, 0);
        foreach (var c in name.ToLowerInvariant())
        {
            digits += char.IsAsciiDigit(c) ? 1 : 0;
            letters += char.IsLetter(c) ? 1 : 0;
            run = char.IsAsciiLetter(c) && !"aeiouy".Contains(c, StringComparison.Ordinal) ? run + 1 : 0;
            if (run > 6)
            {
                return true;
            }
        }

        return digits > 2 && letters > 0;
    }
}
