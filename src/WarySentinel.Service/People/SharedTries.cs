using WarySentinel.Core;
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
    /// <summary>
    /// One try, charged to each of its counts: begun under all of them, looked at, and counted everywhere where it was wrong. What nobody looked at counts
    /// for nothing, and a right one takes back nothing but itself.
    /// </summary>
    /// <param name="steps">The counts, always in the same order, so that no two tries wait for each other.</param>
    /// <param name="look">Looks at it: what was right, or null where it was wrong. May throw <see cref="BusyException"/>.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<Attempt<T>> AttemptAsync<T>(IReadOnlyList<TryStep> steps, Func<Task<T?>> look, CancellationToken stop)
        where T : class
    {
        await LearnAsync(steps, stop);
        var begun = new List<TryStep>();
        var wrong = true;
        try
        {
            foreach (var step in steps)
            {
                if (await step.Throttle.BeginAsync(step.Name, stop) is { Ticks: > 0 } wait)
                {
                    wrong = false;
                    return new Attempt<T>(null, wait, 0);
                }

                begun.Add(step);
            }

            if (await look() is { } right)
            {
                wrong = false;
                // Where other machines have counted wrong ones meanwhile, this one may be out of tries by now, right or not.
                var late = await LearnAsync(steps, stop) ? LongestWait(steps) : TimeSpan.Zero;
                return new Attempt<T>(late > TimeSpan.Zero ? null : right, late, 0);
            }
        }
        catch (BusyException)
        {
            wrong = false;
            return new Attempt<T>(null, TimeSpan.Zero, 0, true);
        }
        finally
        {
            begun.ForEach(s => s.Throttle.End(s.Name, wrong));
        }

        await CountAsync(steps);
        return new Attempt<T>(null, LongestWait(steps), steps.Min(s => s.Throttle.FreeLeft(s.Name)));
    }

    private static TimeSpan LongestWait(IReadOnlyList<TryStep> steps) => steps.Max(s => s.Throttle.WaitOf(s.Name));

    /// <summary>Learns what all machines have counted; true where that is more than this one knew.</summary>
    private async Task<bool> LearnAsync(IReadOnlyList<TryStep> steps, CancellationToken stop)
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
    private async Task CountAsync(IReadOnlyList<TryStep> steps)
    {
        foreach (var step in steps)
        {
            step.Throttle.Learn(step.Name, await store.CountTryAsync(KeyOf(step), time.GetUtcNow() - step.Throttle.Memory));
        }
    }

    private string KeyOf(TryStep step) => secrets.IndexOf($"try {step.Kind} {step.Name}")[..40];
}

/// <summary>What came of a try.</summary>
/// <param name="Right">What was right; null where it was wrong, too many, or too late.</param>
/// <param name="Wait">How long to wait before the next.</param>
/// <param name="Left">How many are left before a wait.</param>
/// <param name="Busy">Whether the queue of slow hashes was full.</param>
public sealed record Attempt<T>(T? Right, TimeSpan Wait, int Left, bool Busy = false)
    where T : class;
