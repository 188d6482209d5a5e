namespace WarySentinel.Contract.Facts;

/// <summary>A role, group or plan, and how many members hold it.</summary>
public sealed record FactDefinitionView(string Key, string Title, int Members, int Version, bool BuiltIn);

/// <summary>A role, group or plan to be added.</summary>
public sealed record FactDefinitionDraft(string? Key, string? Title);
