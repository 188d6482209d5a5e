using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Orders;

/// <summary>How the buyer gets in.</summary>
public enum FulfilmentWay
{
    /// <summary>An account; who has none sets its password by a link in the letter.</summary>
    Account,
    /// <summary>An account; who has none is told a password in the letter.</summary>
    Password,
    /// <summary>No account: the letter has the address of the folder to download from.</summary>
    Link,
    /// <summary>No account: the letter tells the shared password that a gate has now.</summary>
    SharedPassword,
}

/// <summary>What the quantity of a line means.</summary>
public enum QuantityMeaning
{
    /// <summary>Nothing: what is given is given once.</summary>
    Nothing,
    /// <summary>So many lengths, one after the other.</summary>
    Lengths,
    /// <summary>So many people, in an organisation that whoever bought it manages.</summary>
    Seats,
}

/// <summary>One thing that an order gives.</summary>
/// <param name="Kind">Role, group, plan, or an item that is bought.</param>
/// <param name="Key">Its key.</param>
public readonly record struct GivenFact(FactKind Kind, string Key)
{
    /// <inheritdoc/>
    public override string ToString() => $"{FactNames.NameOf(Kind)}:{Key}";
}

/// <summary>What an order for a stock code gives, and how its buyer is told (docs/how-to/orders.md).</summary>
public sealed record FulfilmentRule
{
    /// <summary>Its name.</summary>
    public required string Key { get; init; }

    /// <summary>The stock code; <c>*</c> in it stands for anything, and <c>CODE/VARIANT</c> is one variant of it.</summary>
    public required string Code { get; init; }

    /// <summary>What it gives.</summary>
    public required IReadOnlyList<GivenFact> Gives { get; init; }

    /// <summary>For how long; null for as long as each plan lasts, and for always where it is none.</summary>
    public PlanLength? Length { get; init; }

    /// <summary>What the first payment pays for in place of that, to try it; null for the same.</summary>
    public PlanLength? Trial { get; init; }

    /// <summary>How the buyer gets in.</summary>
    public FulfilmentWay Way { get; init; }

    /// <summary>What the quantity means.</summary>
    public QuantityMeaning Quantity { get; init; }

    /// <summary>The gate whose shared password is told; null where none is.</summary>
    public string? Gate { get; init; }

    /// <summary>How often one person is given it; null for any number of times.</summary>
    public int? Most { get; init; }

    /// <summary>The page of the site that the letter leads to; null for their account.</summary>
    public string? LandsOn { get; init; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;

    /// <summary>Whether it is for a line, by its name.</summary>
    public bool IsFor(OrderLine line) =>
        Starred.Matches(Code, line.Variant is not null && Code.Contains('/', StringComparison.Ordinal) ? line.Name : line.Code);

    /// <summary>How much of its code is fixed: what says more counts before what says less.</summary>
    public int Precision => Code.Contains('*', StringComparison.Ordinal) ? Code.Count(c => c != '*') : int.MaxValue - (Code.Contains('/') ? 0 : 1);
}

/// <summary>The fulfilment rules of a policy. Immutable.</summary>
public sealed record FulfilmentBook : IPolicyPart
{
    /// <summary>None.</summary>
    public FulfilmentBook()
    {
    }

    /// <summary>Some, in the order in which they count.</summary>
    public FulfilmentBook(IEnumerable<FulfilmentRule> rules) =>
        All = [.. rules.OrderByDescending(r => r.Precision).ThenBy(r => r.Key, StringComparer.Ordinal)];

    /// <summary>The more precise first.</summary>
    public IReadOnlyList<FulfilmentRule> All { get; } = [];

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => All.SelectMany(r => r.Gives.Select(f => new NamedAudience("fulfilment", r.Key, AudienceOf(f))));

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map)
    {
        var mapped = All.Select(r => Mapped(r, map)).ToList();
        return mapped.Zip(All, ReferenceEquals).All(same => same) ? this : new FulfilmentBook(mapped);
    }

    /// <inheritdoc/>
    public string? Holding(Catalogue.ItemId id) => All.FirstOrDefault(
        r => r.Gives.Any(f => f.Kind == FactKind.Bought && f.Key == id.ToString())) is { } rule ? "fulfilment " + rule.Key : null;

    /// <summary>The rule for a line: the most precise; null where none is for it.</summary>
    public FulfilmentRule? For(OrderLine line) => All.FirstOrDefault(r => r.IsFor(line));

    /// <summary>The stock code by which a plan is bought, and nothing else with it; null where there is none such.</summary>
    public string? CodeOf(string plan) => All.FirstOrDefault(
        r => r.Gives is [{ Kind: FactKind.Plan } given] && given.Key == plan && !r.Code.Contains('*', StringComparison.Ordinal))?.Code;

    /// <summary>Those of a policy.</summary>
    public static FulfilmentBook Of(Policy policy) => policy.Parts.Of<FulfilmentBook>();

    /// <summary>A rule with other facts in place of its own, as audiences are mapped; the very same where none changes. One that is no fact goes.</summary>
    public static FulfilmentRule Mapped(FulfilmentRule rule, Func<Audience, Audience> map)
    {
        var gives = rule.Gives.Select(f => TryFact(map(AudienceOf(f)).ToString(), out var fact) ? fact : (GivenFact?)null).OfType<GivenFact>().Distinct()
            .ToList();
        return gives.SequenceEqual(rule.Gives) ? rule : rule with { Gives = gives };
    }

    /// <summary>Reads what an order can give: what a member can hold, or <c>pass:</c> with a key; false where it is neither.</summary>
    public static bool TryFact(string? text, out GivenFact fact)
    {
        var isPass = text?.StartsWith("pass:", StringComparison.Ordinal) == true && text.Length > "pass:".Length;
        fact = isPass ? new GivenFact(FactKind.Pass, text!["pass:".Length..]) : default;
        if (!isPass && People.MemberNames.TryFact(text, out var held))
        {
            (isPass, fact) = (true, new GivenFact(held.Kind, held.Key));
        }

        return isPass;
    }

    private static Audience AudienceOf(GivenFact fact) => AudienceParser.ParseStored(fact.ToString()).Value;
}

/// <summary>Stores a fulfilment rule.</summary>
public sealed record FulfilmentPut(FulfilmentRule Rule) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) =>
        draft.Set(new FulfilmentBook(draft.Part<FulfilmentBook>().All.Where(r => r.Key != Rule.Key).Append(Rule)));
}

/// <summary>Drops a fulfilment rule.</summary>
public sealed record FulfilmentDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new FulfilmentBook(draft.Part<FulfilmentBook>().All.Where(r => r.Key != Key)));
}
