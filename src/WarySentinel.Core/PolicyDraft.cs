namespace WarySentinel.Core;

/// <summary>A policy while changes are made to it. Each room reads and sets its own part, and knows no other.</summary>
public sealed class PolicyDraft
{
    private readonly Dictionary<Type, object> parts = [];

    /// <summary>All parts.</summary>
    public IEnumerable<object> Parts => parts.Values;

    /// <summary>The part of that kind. Throws <see cref="InvalidOperationException"/> where the policy has none and none can be made.</summary>
    public T Part<T>()
        where T : class => parts.TryGetValue(typeof(T), out var part) ? (T)part
        : typeof(T).GetConstructor([]) is { } made ? (T)made.Invoke(null) : throw new InvalidOperationException($"A policy has no {typeof(T).Name}.");

    /// <summary>Puts a part in the place of the one of its kind.</summary>
    public void Set(object part) => parts[part.GetType()] = part;
}
