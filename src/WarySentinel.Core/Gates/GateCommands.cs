using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Gates;

/// <summary>What gate commands need to know beside the policy.</summary>
/// <param name="Known">The keys that audiences may name.</param>
/// <param name="Reserved">Path prefixes that this service serves itself, such as <c>/account</c>; no gate may close them.</param>
/// <param name="Owners">The active owners, as visitors; one of them must always get in.</param>
/// <param name="Now">The time.</param>
public sealed record GateSurroundings(IKnownKeys Known, IReadOnlyList<string> Reserved, IReadOnlyList<Visitor> Owners, DateTimeOffset Now);

/// <summary>Adds, changes and removes gates: each gives what to store, or why not.</summary>
public static class GateCommands
{
    /// <summary>Adds a gate.</summary>
    public static Outcome<Edit<Gate>> Add(Policy policy, GateDraft draft, GateSurroundings around)
    {
        var read = draft.Read(policy, around.Known, around.Reserved);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var gate = read.Value;
        if (policy.FindGate(gate.Key) is not null)
        {
            return new Problem(ProblemKind.Conflict, "gate-exists", Wording.Of("problem.gate-exists", gate.Key),
                [new Fault("key", Wording.Of("problem.gate-exists", gate.Key))]);
        }

        return Unless(policy, new Edit("gate.add", gate.Key, [new GatePut(gate)], null, GateSentence.Of(gate, policy).ToString())
        { Detail = Detail.Of(null, GateDraft.Of(gate)) }, gate, around);
    }

    /// <summary>Changes a gate. A problem when it changed since the version that was read.</summary>
    public static Outcome<Edit<Gate>> Set(Policy policy, string key, GateDraft draft, int? version, GateSurroundings around)
    {
        if (policy.FindGate(key) is not { } old)
        {
            return Unknown(policy, key);
        }

        if (version is not null && version != old.Version)
        {
            return Problem.Of(ProblemKind.Stale, "stale", key);
        }

        var read = (draft with { Key = key }).Read(policy, around.Known, around.Reserved);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var gate = read.Value with { Version = old.Version + 1 };
        return Unless(
            policy, new Edit("gate.set", key, [new GatePut(gate)], GateSentence.Of(old, policy).ToString(), GateSentence.Of(gate, policy).ToString())
            { Detail = Detail.Of(GateDraft.Of(old), GateDraft.Of(gate)) }, gate, around);
    }

    /// <summary>Removes a gate.</summary>
    public static Outcome<Edit<Gate>> Remove(Policy policy, string key, int? version, GateSurroundings around)
    {
        if (policy.FindGate(key) is not { } old)
        {
            return Unknown(policy, key);
        }

        if (version is not null && version != old.Version)
        {
            return Problem.Of(ProblemKind.Stale, "stale", key);
        }

        return Unless(policy, new Edit("gate.remove", key, [new GateDropped(key)], GateSentence.Of(old, policy).ToString(), null)
        { Detail = Detail.Of(GateDraft.Of(old), null) }, old, around);
    }

    /// <summary>Takes a gate's last change back: it says what it said before, is gone again, or is there again.</summary>
    /// <param name="policy">The policy as it is.</param>
    /// <param name="key">The gate.</param>
    /// <param name="detail">The detail of its last change, or null where none is on record.</param>
    /// <param name="around">What gate commands need to know.</param>
    public static Outcome<Edit<Gate>> Undo(Policy policy, string key, string? detail, GateSurroundings around)
    {
        if (detail is null)
        {
            return Problem.Of(ProblemKind.NotFound, "nothing-to-undo", key);
        }

        var outcome = Detail.BeforeOf<GateDraft>(detail) is not { } before ? Remove(policy, key, null, around)
            : policy.FindGate(key) is null ? Add(policy, before, around)
            : Set(policy, key, before, null, around);
        return outcome.Problem is { } problem ? problem : outcome.Value with { ToStore = outcome.Value.ToStore with { Action = "gate.undo" } };
    }

    /// <summary>The edit, with the policy after it, which had to be compiled to see whether it keeps every owner out.</summary>
    private static Outcome<Edit<Gate>> Unless(Policy policy, Edit edit, Gate gate, GateSurroundings around)
    {
        var after = policy.TryAfter(edit);
        return after.Problem ?? LocksOut(policy, after.Value, around)
            ?? (Outcome<Edit<Gate>>)new Edit<Gate>(new CompiledEdit(edit, after.Value), gate);
    }

    /// <summary>A problem that names the gate where every owner who could open the site before would be kept out of it after.</summary>
    public static Problem? LocksOut(Policy before, Policy after, GateSurroundings around) =>
        LocksOutBy(before, after, around) is { } gate ? Problem.Of(ProblemKind.Conflict, "locks-out-owner", gate.Title, gate.Key) : null;

    /// <summary>The gate that would keep every owner out who could open the site before; null where none would.</summary>
    public static Gate? LocksOutBy(Policy before, Policy after, GateSurroundings around)
    {
        // An owner may hold the shared passwords of the gates; a gate that asks for one does not keep owners out.
        Gate? Refuses(Policy policy, Visitor owner) => policy.Decide(
            owner.Having([.. policy.Gates.Where(g => g.Audience.AsksForPassword).Select(g => new Unlock(g.Key, DateTimeOffset.MaxValue))]),
            ItemId.Site, Acts.Open, around.Now).Value.Refusal?.Gate;
        return around.Owners.All(o => Refuses(before, o) is not null) || around.Owners.Any(o => Refuses(after, o) is null) ? null
            : Refuses(after, around.Owners[0]);
    }

    private static Problem Unknown(Policy policy, string key)
    {
        var near = Nearest.To(key, policy.Gates.Select(g => g.Key));
        return near is null ? Problem.Of(ProblemKind.NotFound, "gate-unknown", key) : Problem.Of(ProblemKind.NotFound, "gate-unknown-near", key, near);
    }
}
