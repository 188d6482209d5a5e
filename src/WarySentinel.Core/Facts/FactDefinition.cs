namespace WarySentinel.Core.Facts;

/// <summary>When the time of a plan that is paid for begins to count.</summary>
public enum PlanStart
{
    /// <summary>As soon as it is paid.</summary>
    AtOnce,
    /// <summary>When whoever bought it, or the owner, says so; it opens nothing before.</summary>
    ByHand,
    /// <summary>When it first opens something.</summary>
    OnUse,
}

/// <summary>A link of the account menu: an address of the site, and what it is called.</summary>
public sealed record MenuLink(string Address, string Words);

/// <summary>A role, group or plan that audiences may name.</summary>
/// <param name="Kind">Which of the three.</param>
/// <param name="Key">Its name in expressions.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Version">Counts its changes, from 1.</param>
public sealed record FactDefinition(FactKind Kind, string Key, string Title, int Version = 1)
{
    /// <summary>Where those who hold a role are at home on the site; null where it has no such page.</summary>
    public string? Home { get; init; }

    /// <summary>What a role adds to the account menu, in order.</summary>
    public IReadOnlyList<MenuLink> Links { get; init; } = [];

    /// <summary>How long a plan lasts when it is given; null for as long as nobody ends it.</summary>
    public PlanLength? Length { get; init; }

    /// <summary>How long a plan that is paid for goes on after its end, so that a late payment finds the door open; null for not at all.</summary>
    public PlanLength? Grace { get; init; }

    /// <summary>How long before a plan's end its holder is reminded, and again once it is over; null for not at all.</summary>
    public PlanLength? Remind { get; init; }

    /// <summary>When the time that an order pays for begins to count.</summary>
    public PlanStart Starts { get; init; }

    /// <inheritdoc/>
    public bool Equals(FactDefinition? other) => other is not null && Kind == other.Kind && Key == other.Key && Title == other.Title
        && Version == other.Version && Home == other.Home && Length == other.Length && Grace == other.Grace && Remind == other.Remind && Starts == other.Starts
        && Links.SequenceEqual(other.Links);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Kind, Key, Title, Version, Home, Links.Count, Length, HashCode.Combine(Grace, Remind, Starts));
}

/// <summary>The definitions of a policy while changes are made to them.</summary>
public sealed class DefinitionsDraft(IReadOnlyList<FactDefinition> before)
{
    private Dictionary<(FactKind Kind, string Key), FactDefinition>? all;

    /// <summary>By kind and key; there may be very many, so they are copied once somebody asks.</summary>
    public Dictionary<(FactKind Kind, string Key), FactDefinition> All => all ??= before.ToDictionary(d => (d.Kind, d.Key));

    /// <summary>What they are after all changes: the very same list where nobody asked.</summary>
    public IEnumerable<FactDefinition> After => all is null ? before : all.Values;
}

/// <summary>Stores a role, group or plan.</summary>
public sealed record FactDefinitionPut(FactDefinition Definition) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Part<DefinitionsDraft>().All[(Definition.Kind, Definition.Key)] = Definition;
}

/// <summary>Drops a role, group or plan.</summary>
public sealed record FactDefinitionDropped(FactKind Kind, string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Part<DefinitionsDraft>().All.Remove((Kind, Key));
}
