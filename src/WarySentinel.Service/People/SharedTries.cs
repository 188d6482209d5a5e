using WarySentinel.Core.Access;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>One count that a try is charged to.</summary>
/// <param name="Throttle">What slows it.</param>
/// <param name="Kind">What is counted, such as <c>network</c>.</param>
/// <param name="Name">Of whom.</param>
public sealed record TryStep(Throttle Throttle, string Kind, string Name);

/// <summary>
/// Counts wrong tries where every machine sees them, so that several machines give no more tries than one. Only wrong ones are written; each costs a
/// slow hash already. Names are kept as keyed digests.
/// </summary>
public sealed class SharedTries(Store store, Secrets secrets, TimeProvider time)
{
    /// <summary>Learns what all machines have counted; true where that is more than this one knew.</summary>
    public async Task<bool> LearnAsync(IReadOnlyList<TryStep> steps, CancellationToken stop)
    {
        var counted = await store.TriesAsync([.. steps.Select(KeyOf)], stop);
        var more = false;
        foreach (var step in steps)
        {
            more |= counted.TryGetValue(KeyOf(step), out var shared) && step.Throttle.Learn(step.Name, shared);
        }

        return more;
    }

    /// <summary>Counts a wrong try under each of its names, whoever asked has left or not.</summary>
    public async Task CountAsync(IReadOnlyList<TryStep> steps)
    {
        // Always in one order, so that no two wait for each other.
        foreach (var step in steps.OrderBy(KeyOf, StringComparer.Ordinal))
        {
            step.Throttle.Learn(step.Name, await store.CountTryAsync(KeyOf(step), time.GetUtcNow() - step.Throttle.Memory));
        }
    }

    private string KeyOf(TryStep step) => secrets.IndexOf($"try {step.Kind} {step.Name}")[..40];
}
