using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>One requirement that applied, by which way, and whether it admitted the visitor.</summary>
/// <param name="Gate">The gate.</param>
/// <param name="Way">From the item up to the item that the gate covers; empty where a path pattern matched.</param>
/// <param name="Pattern">The path pattern that matched, if it was one.</param>
/// <param name="Admitted">Whether the visitor passes it.</param>
/// <param name="Guards">Whether it guards the act at all.</param>
public sealed record Reason(Gate Gate, IReadOnlyList<ItemId> Way, Address? Pattern, bool Admitted, bool Guards);

/// <summary>What the refused visitor gets, and from which gate.</summary>
/// <param name="Gate">The gate on the nearest item, which decides.</param>
/// <param name="Answer">Never <see cref="Access.Answer.Auto"/>.</param>
public sealed record Refusal(Gate Gate, Answer Answer);

/// <summary>The outcome for one visitor, one act and one item or path, with its reasons.</summary>
/// <param name="Allowed">Whether the visitor may.</param>
/// <param name="ByStaff">Allowed only because staff passes every gate.</param>
/// <param name="Items">The items decided about; none where a path belongs to no item.</param>
/// <param name="Reasons">Every requirement in force that reaches them, nearest first.</param>
/// <param name="Refusal">What the refused meets; null when allowed.</param>
public sealed record Decision(
    bool Allowed, bool ByStaff, IReadOnlyList<ItemId> Items, IReadOnlyList<Reason> Reasons, Refusal? Refusal)
{
    /// <summary>The request that was decided about; null where an item was asked about by name.</summary>
    public RequestPath? Path { get; init; }
}

/// <summary>How an item meets a visitor.</summary>
public enum Sight
{
    /// <summary>May be opened.</summary>
    Open,
    /// <summary>Seen to exist.</summary>
    Listed,
    /// <summary>No trace.</summary>
    Hidden,
}

/// <summary>A request's target in normal form, with the requirements that apply to it. Good as long as the policy and the moment it came from.</summary>
/// <param name="Path">The normal form.</param>
/// <param name="Gates">The requirements that apply.</param>
/// <param name="Act">The acts that the request attempts.</param>
public sealed record ResolvedRequest(RequestPath Path, IReadOnlyList<Gate> Gates, Acts Act);

/// <summary>The names of sights, as they are written.</summary>
public static class SightNames
{
    /// <summary>The name of one.</summary>
    public static string NameOf(Sight sight) => sight switch { Sight.Open => "open", Sight.Listed => "listed", _ => "hidden" };
}
