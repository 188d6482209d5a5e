namespace WarySentinel.Core.Facts;

/// <summary>A role, group or plan that audiences may name.</summary>
/// <param name="Kind">Which of the three.</param>
/// <param name="Key">Its name in expressions.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Version">Counts its changes, from 1.</param>
public sealed record FactDefinition(FactKind Kind, string Key, string Title, int Version = 1);

/// <summary>The definitions of a policy while changes are made to them.</summary>
public sealed class DefinitionsDraft(IEnumerable<FactDefinition> before)
{
    /// <summary>By kind and key.</summary>
    public Dictionary<(FactKind Kind, string Key), FactDefinition> All { get; } = before.ToDictionary(d => (d.Kind, d.Key));
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
