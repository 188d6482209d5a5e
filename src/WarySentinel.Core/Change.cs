namespace WarySentinel.Core;

/// <summary>
/// One thing to store or to drop. A command gives back a list of these; the store applies all or none. Changes go by two lanes
/// (docs/architecture.md): those of the policy, one writer at a time under its revision, and those of people, each by itself.
/// </summary>
public abstract record Change
{
    /// <summary>A change of what decides. It knows what becomes of a policy by it.</summary>
    public abstract record OfPolicy : Change
    {
        /// <summary>Makes it in a policy that is being changed.</summary>
        public abstract void ApplyTo(PolicyDraft draft);
    }

    /// <summary>A change about a person; it leaves the policy as it is.</summary>
    public abstract record OfPeople : Change;
}

/// <summary>What a command wants done: the changes, and what the audit trail says of them.</summary>
/// <param name="Action">A stable word such as <c>gate.add</c>.</param>
/// <param name="Subject">The name of what is changed.</param>
/// <param name="Changes">All of them, or none, are stored.</param>
/// <param name="Before">What it was, in readable form; never a secret.</param>
/// <param name="After">What it becomes.</param>
public record Edit(string Action, string Subject, IReadOnlyList<Change> Changes, string? Before = null, string? After = null)
{
    /// <summary>Both sides in full (<see cref="Core.Detail"/>), where the change can be shown field by field or undone.</summary>
    public string? Detail { get; init; }

    /// <summary>Further entries of the audit trail, where one edit changes several things that people look up by name.</summary>
    public IReadOnlyList<Edit> Notes { get; init; } = [];
}

/// <summary>An edit together with the value that the caller asked for.</summary>
public sealed record Edit<T>(Edit ToStore, T Value);
