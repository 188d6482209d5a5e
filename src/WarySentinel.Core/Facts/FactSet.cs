namespace WarySentinel.Core.Facts;

/// <summary>Members who hold the same facts.</summary>
/// <param name="Visitor">The facts.</param>
/// <param name="Members">How many they are.</param>
/// <param name="Names">Some of their names.</param>
public sealed record FactSet(Visitor Visitor, int Members, IReadOnlyList<string>? Names = null);
