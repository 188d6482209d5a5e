using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Gates;

/// <summary>What guards an item, in short.</summary>
/// <param name="Own">The gate that stands for this item alone in place of those above it; null where it is as they say.</param>
/// <param name="IsOpen">Whether it is lifted from all above it, and has none of its own.</param>
/// <param name="From">The gates above it that count for it, each with the item that it came from.</param>
public sealed record Guarding(Gate? Own, bool IsOpen, IReadOnlyList<(Gate Gate, ItemId From)> From);

/// <summary>
/// A gate of an item's own in place of those that it would inherit: an exemption on just this item, and a requirement on it (docs/explanation/decisions.md,
/// "exemptions": an exemption never lifts what stands on the very same item).
/// </summary>
public static class OwnGate
{
    /// <summary>What guards an item now.</summary>
    public static Guarding Of(Policy policy, ItemId id, DateTimeOffset now)
    {
        var (own, lifts) = (policy.FindGate(KeyOf(id)), policy.FindGate(LiftOf(id)) is not null);
        var reaching = policy.ReasonsOn(id, now).Where(r => r.Gate.Key != own?.Key).Select(r => (r.Gate, r.Way.Count > 0 ? r.Way[^1] : ItemId.Site)).ToList();
        return new Guarding(lifts ? own : null, lifts && own is null, reaching);
    }

    /// <summary>Gives an item a gate of its own, or has it open to all.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="id">The item.</param>
    /// <param name="audience">Whom it admits; null for everybody.</param>
    /// <param name="around">What gate commands need to know.</param>
    public static Outcome<Edit<Guarding>> Set(Policy policy, ItemId id, string? audience, GateSurroundings around)
    {
        if (policy.Graph.Find(id) is not { } item || id == ItemId.Site)
        {
            return Problem.Of(ProblemKind.NotFound, "item-unknown", id);
        }

        string[] covers = [id.ToString()];
        var lift = new GateDraft { Key = LiftOf(id), Title = item.Title, Kind = "exemption", Covers = covers, Reach = "item" };
        var first = policy.FindGate(lift.Key) is null ? GateCommands.Add(policy, lift, around) : (Outcome<Edit<Gate>>?)null;
        var own = new GateDraft { Key = KeyOf(id), Title = item.Title, Audience = audience, Covers = covers, Reach = "item" };
        var second = audience is null ? (policy.FindGate(own.Key!) is null ? (Outcome<Edit<Gate>>?)null : GateCommands.Remove(policy, own.Key!, null, around))
            : policy.FindGate(own.Key!) is { } there
            ? GateCommands.Set(policy, own.Key!, GateDraft.Of(there) with { Audience = audience }, null, around)
            : GateCommands.Add(policy, own, around);
        return (first?.Problem ?? second?.Problem) is { } problem ? problem
            : Together(policy, "item.gate", id, audience ?? "anyone", [first, second], around);
    }

    /// <summary>Has an item be as those above it say.</summary>
    public static Outcome<Edit<Guarding>> Inherit(Policy policy, ItemId id, GateSurroundings around)
    {
        if (policy.Graph.Find(id) is null)
        {
            return Problem.Of(ProblemKind.NotFound, "item-unknown", id);
        }

        var removed = new[] { LiftOf(id), KeyOf(id) }.Where(k => policy.FindGate(k) is not null)
            .Select(k => (Outcome<Edit<Gate>>?)GateCommands.Remove(policy, k, null, around)).ToList();
        return removed.Select(r => r?.Problem).FirstOrDefault(p => p is not null) is { } problem ? problem
            : Together(policy, "item.inherit", id, null, removed, around);
    }

    private static Outcome<Edit<Guarding>> Together(
        Policy policy, string action, ItemId id, string? said, IEnumerable<Outcome<Edit<Gate>>?> edits, GateSurroundings around)
    {
        var edit = new Edit(action, id.ToString(), [.. edits.OfType<Outcome<Edit<Gate>>>().SelectMany(e => e.Value.ToStore.Changes)], null, said);
        var after = policy.TryAfter(edit);
        return after.Problem ?? GateCommands.LocksOut(policy, after.Value, around)
            ?? (Outcome<Edit<Guarding>>)new Edit<Guarding>(new CompiledEdit(edit, after.Value), Of(after.Value, id, around.Now));
    }

    private static string KeyOf(ItemId id) => $"own-{id.Kind.ToString().ToLowerInvariant()}-{id.Key}";

    private static string LiftOf(ItemId id) => $"lift-{id.Kind.ToString().ToLowerInvariant()}-{id.Key}";
}
