using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;

namespace WarySentinel.Core.Orders;

/// <summary>A fulfilment rule as people write it.</summary>
public sealed record FulfilmentDraft
{
    /// <summary>Longest stock code.</summary>
    public const int LongestCode = 100;

    private const int MostFacts = 20;
    private const int MostTimes = 10_000;

    /// <summary>The names of the ways.</summary>
    public static readonly IReadOnlyList<string> Ways = ["account", "password", "link", "shared-password"];

    /// <summary>The names of what the quantity means.</summary>
    public static readonly IReadOnlyList<string> Quantities = ["nothing", "lengths", "seats"];

    /// <summary>Its name.</summary>
    public string? Key { get; init; }

    /// <summary>The stock code, or a pattern of it.</summary>
    public string? Code { get; init; }

    /// <summary>What it gives: <c>plan:KEY</c>, <c>role:KEY</c>, <c>group:KEY</c>, <c>bought:KIND:KEY</c>.</summary>
    public IReadOnlyList<string>? Gives { get; init; }

    /// <summary>For how long (ISO 8601); as long as each plan lasts unless said.</summary>
    public string? Length { get; init; }

    /// <summary>What the first payment pays for in place of that (ISO 8601), to try it; the same unless said.</summary>
    public string? Trial { get; init; }

    /// <summary><c>account</c> unless said.</summary>
    public string? Way { get; init; }

    /// <summary><c>nothing</c> unless said.</summary>
    public string? Quantity { get; init; }

    /// <summary>The gate whose shared password is told.</summary>
    public string? Gate { get; init; }

    /// <summary>How often one person is given it.</summary>
    public int? Most { get; init; }

    /// <summary>The page that the letter leads to.</summary>
    public string? LandsOn { get; init; }

    /// <summary>The draft that says what a rule says.</summary>
    public static FulfilmentDraft Of(FulfilmentRule rule) => new()
    {
        Key = rule.Key, Code = rule.Code, Gives = [.. rule.Gives.Select(f => f.ToString())], Length = rule.Length?.ToString(), Trial = rule.Trial?.ToString(),
        Way = Ways[(int)rule.Way],
        Quantity = Quantities[(int)rule.Quantity], Most = rule.Most, LandsOn = rule.LandsOn, Gate = rule.Gate,
    };

    /// <summary>Reads the draft against a policy, or gives every fault found in it.</summary>
    /// <param name="policy">Knows what can be given; null where a rule that is stored is read.</param>
    public Outcome<FulfilmentRule> Read(Policy? policy)
    {
        var faults = new Faults();
        faults.Unless(CatalogueKey.IsValid(Key), "key", "key-form", Key);
        var code = Code?.Trim() ?? "";
        faults.Unless(code.Length is > 0 and <= LongestCode && PlainText.IsClean(code), "code", "fulfilment-code", LongestCode);
        var (way, quantity) = (Place(faults, "way", Way, Ways), Place(faults, "quantity", Quantity, Quantities));
        var gives = ReadFacts(policy, faults);
        PlanLength? length = null;
        faults.Unless(string.IsNullOrWhiteSpace(Length) || PlanLength.TryParse(Length, out length), "length", "plan-length", Length);
        PlanLength? trial = null;
        faults.Unless(string.IsNullOrWhiteSpace(Trial) || PlanLength.TryParse(Trial, out trial), "trial", "plan-length", Trial);
        faults.Unless(Most is null or (> 0 and <= MostTimes), "most", "fulfilment-most", MostTimes);
        faults.Unless(string.IsNullOrWhiteSpace(LandsOn) || ReturnTo.IsOnThisSite(LandsOn), "landsOn", "redirect-form");
        faults.Unless(
            way != (int)FulfilmentWay.Link || faults.Any || gives.All(f => f.Kind == FactKind.Bought), "gives", "fulfilment-link");
        var tells = way == (int)FulfilmentWay.SharedPassword;
        faults.Unless(!tells || gives.Count == 0 || faults.Any, "gives", "fulfilment-password-only");
        faults.Unless(tells || string.IsNullOrWhiteSpace(Gate), "gate", "fulfilment-gate-only");
        faults.Unless(!tells || policy is null || policy.FindGate(Gate?.Trim() ?? "") is { IsExemption: false, Audience.AsksForPassword: true }, "gate",
            "gate-takes-no-password", Gate);
        faults.Unless(quantity != (int)QuantityMeaning.Seats || faults.Any || (way <= (int)FulfilmentWay.Password
            && gives.All(f => f.Kind != FactKind.Pass)), "quantity", "fulfilment-seats");
        faults.Unless(gives.Count > 0 || tells || faults.Any || policy is null, "gives", "fulfilment-nothing");
        return faults.Any ? faults.ToProblem() : new FulfilmentRule
        {
            Key = Key!, Code = code, Gives = gives, Length = length, Trial = trial, Way = (FulfilmentWay)way,
            Quantity = (QuantityMeaning)quantity, Most = Most, LandsOn = PlainText.OrNull(LandsOn),
            Gate = tells ? PlainText.OrNull(Gate) : null,
        };
    }

    private static int Place(Faults faults, string field, string? said, IReadOnlyList<string> names)
    {
        var at = string.IsNullOrWhiteSpace(said) ? 0 : names.ToList().IndexOf(said.Trim());
        faults.Unless(at >= 0, field, "not-one-of", said, string.Join(", ", names));
        return Math.Max(at, 0);
    }

    private List<GivenFact> ReadFacts(Policy? policy, Faults faults)
    {
        var gives = new List<GivenFact>();
        foreach (var text in Gives ?? [])
        {
            if (policy is null)
            {
                if (FulfilmentBook.TryFact(text, out var stored))
                {
                    gives.Add(stored);
                }

                continue;
            }

            if (FulfilmentBook.TryFact(text, out var pass) && pass.Kind == FactKind.Pass)
            {
                faults.Unless(policy.FindDefinition(FactKind.Pass, pass.Key) is not null, "gives", "standing-unknown", "pass", pass.Key);
                gives.Add(pass);
                continue;
            }

            var read = GrantCommands.ReadFact(policy, text);
            if (read.Problem is { } problem)
            {
                faults.Take("gives", problem);
            }
            else if (read.Value.Kind == FactKind.Role && StaffRights.Names.Contains(read.Value.Key))
            {
                // Nobody buys the house.
                faults.Bad("gives", "fulfilment-staff", text);
            }
            else
            {
                gives.Add(new GivenFact(read.Value.Kind, read.Value.Key));
            }
        }

        faults.Unless(gives.Count <= MostFacts, "gives", "fulfilment-many-facts", MostFacts);
        return [.. gives.Distinct()];
    }
}

/// <summary>Adds, changes and removes fulfilment rules.</summary>
public static class FulfilmentCommands
{
    /// <summary>Most rules of a site.</summary>
    public const int Most = 5000;

    /// <summary>Stores a rule; one of that key is replaced.</summary>
    public static Outcome<Edit<FulfilmentRule>> Put(Policy policy, FulfilmentDraft draft)
    {
        var read = draft.Read(policy);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var book = FulfilmentBook.Of(policy);
        var old = book.All.FirstOrDefault(r => r.Key == read.Value.Key);
        if (book.All.FirstOrDefault(r => r.Key != read.Value.Key && string.Equals(r.Code, read.Value.Code, StringComparison.OrdinalIgnoreCase)) is { } twin)
        {
            return Problem.In("code", "fulfilment-twin", twin.Code, twin.Key);
        }

        if (old is null && book.All.Count >= Most)
        {
            return Problem.Of(ProblemKind.Conflict, "fulfilment-many", Most);
        }

        var fresh = read.Value with { Version = (old?.Version ?? 0) + 1 };
        return new Edit<FulfilmentRule>(
            new Edit(old is null ? "fulfilment.add" : "fulfilment.set", fresh.Key, [new FulfilmentPut(fresh)], old is null ? null : Describe(old),
                Describe(fresh))
            {
                Detail = Detail.Of(old is null ? null : FulfilmentDraft.Of(old), FulfilmentDraft.Of(fresh)),
            },
            fresh);
    }

    /// <summary>Removes a rule. What orders were promised by it stays promised.</summary>
    public static Outcome<Edit<FulfilmentRule>> Remove(Policy policy, string key) =>
        FulfilmentBook.Of(policy).All.FirstOrDefault(r => r.Key == key) is not { } old ? Problem.Of(ProblemKind.NotFound, "fulfilment-unknown", key)
            : new Edit<FulfilmentRule>(
                new Edit("fulfilment.remove", key, [new FulfilmentDropped(key)], Describe(old)) { Detail = Detail.Of(FulfilmentDraft.Of(old), null) }, old);

    private static string Describe(FulfilmentRule rule) => $"{rule.Code}: {string.Join(", ", rule.Gives)}";
}
