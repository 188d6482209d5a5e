namespace WarySentinel.Core.Access;

/// <summary>What a room above keeps in the policy, as it is decided by and changes with it. Immutable, and empty when it is new.</summary>
public interface IPolicyPart
{
    /// <summary>The audiences in it, so that no role, group or plan goes that one of them names.</summary>
    IEnumerable<NamedAudience> Audiences { get; }

    /// <summary>The same with other audiences in place of its own; the very same where none of them changes by it.</summary>
    IPolicyPart Mapped(Func<Audience, Audience> map);

    /// <summary>What of it an item belongs to, as a command names it (<c>page winter-targets</c>), so that the item goes with that and not before; null
    /// for none.</summary>
    string? Holding(Catalogue.ItemId id) => null;

    /// <summary>What visitors read of it that can be said in other languages.</summary>
    IEnumerable<PartText> Texts => [];
}

/// <summary>A text of a part of the policy, in the site's language.</summary>
/// <param name="Key">Under which it is said in others, such as <c>item:page:winter-targets.title</c>.</param>
/// <param name="Text">What it says.</param>
/// <param name="Longest">Most characters.</param>
public sealed record PartText(string Key, string Text, int Longest);

/// <summary>An audience, and what asks by it.</summary>
/// <param name="Kind">What it belongs to, such as <c>redirect</c>.</param>
/// <param name="Key">The name of that.</param>
/// <param name="Audience">The expression.</param>
public sealed record NamedAudience(string Kind, string Key, Audience Audience);

/// <summary>The parts of a policy beside catalogue, gates and settings, one of each kind. Immutable.</summary>
public sealed class PolicyParts
{
    /// <summary>Nothing.</summary>
    public static readonly PolicyParts None = new([]);

    private readonly Dictionary<Type, IPolicyPart> byType;

    private PolicyParts(IEnumerable<IPolicyPart> parts) => byType = parts.ToDictionary(p => p.GetType());

    /// <summary>All of them.</summary>
    public IEnumerable<IPolicyPart> All => byType.Values;

    /// <summary>Parts of different kinds.</summary>
    public static PolicyParts Of(params IEnumerable<IPolicyPart> parts) => new(parts);

    /// <summary>The same, bound to the rules of groups.</summary>
    internal PolicyParts Bound(GroupRules rules) => new(byType.Values.Select(p => p is GroupRules ? p : p.Mapped(rules.Bind)));

    /// <summary>The part of that kind; an empty one where there is none.</summary>
    public T Of<T>()
        where T : class, IPolicyPart, new() => byType.TryGetValue(typeof(T), out var part) ? (T)part : Empty<T>.Part;

    /// <summary>One that is empty serves whoever asks for it: it is asked for on the path of every request.</summary>
    private static class Empty<T>
        where T : class, IPolicyPart, new()
    {
        public static readonly T Part = new();
    }
}
