namespace WarySentinel.Core;

/// <summary>
/// Slows repeated wrong tries down: some are free, then each costs twice the wait of the one before, up to a longest.
/// A try is not charged while it is looked at, but no more are looked at together than could be wrong without a wait; the others queue.
/// So a class that types the right password at once all gets in, and a flood of guesses is as slow as one guess after the other.
/// A name that was quiet for the whole memory starts afresh. What other machines count is learnt (<see cref="Learn"/>). Thread-safe.
/// </summary>
/// <param name="time">The clock.</param>
/// <param name="free">How many wrong tries cost nothing.</param>
/// <param name="longestWait">The longest wait between two.</param>
/// <param name="memory">How long a wrong try is remembered.</param>
/// <param name="mostNames">Most names kept; those that were quiet for longest are forgotten first.</param>
public sealed class Throttle(TimeProvider time, int free, TimeSpan longestWait, TimeSpan memory, int mostNames = 200_000)
{
    private const int MostQueued = 200;
    private readonly Lock gate = new();
    private Dictionary<string, Entry> young = new(StringComparer.Ordinal);
    private Dictionary<string, Entry> old = new(StringComparer.Ordinal);

    private sealed class Entry
    {
        public int Wrong;
        public int Looking;
        public DateTimeOffset Last;
        public readonly LinkedList<TaskCompletionSource<TimeSpan>> Queue = new();
    }

    /// <summary>How long a wrong try is remembered.</summary>
    public TimeSpan Memory => memory;

    /// <summary>Takes over what is counted for all machines; true where that is more than was known here.</summary>
    public bool Learn(string name, WrongTries shared)
    {
        lock (gate)
        {
            var now = time.GetUtcNow();
            var known = Find(name);
            var mine = known is null || now - known.Last >= memory ? 0 : known.Wrong;
            if (now - shared.Last >= memory || shared.Wrong <= mine)
            {
                return false;
            }

            known ??= Add(name);
            (known.Wrong, known.Last) = (shared.Wrong, shared.Last > known.Last ? shared.Last : known.Last);
            return true;
        }
    }

    /// <summary>How long the name must wait before its next try; zero when it may try now.</summary>
    public TimeSpan WaitOf(string name)
    {
        lock (gate)
        {
            return Find(name) is { } entry ? WaitOf(entry) : TimeSpan.Zero;
        }
    }

    /// <summary>How many tries are left before waiting begins.</summary>
    public int FreeLeft(string name)
    {
        lock (gate)
        {
            return Find(name) is { } entry && time.GetUtcNow() - entry.Last < memory ? Math.Max(0, free - entry.Wrong) : free;
        }
    }

    /// <summary>
    /// Begins a try, as soon as no more are looked at than may be wrong. Gives zero and the try is on, to be ended by <see cref="End"/>;
    /// or gives how long to wait, and there is no try.
    /// </summary>
    public async Task<TimeSpan> BeginAsync(string name, CancellationToken cancellationToken)
    {
        LinkedListNode<TaskCompletionSource<TimeSpan>> place;
        Entry entry;
        lock (gate)
        {
            entry = Find(name) ?? Add(name);
            if (WaitOf(entry) is { Ticks: > 0 } wait)
            {
                return wait;
            }

            if (entry.Looking < Room(entry))
            {
                entry.Looking++;
                return TimeSpan.Zero;
            }

            if (entry.Queue.Count >= MostQueued)
            {
                return TimeSpan.FromSeconds(1);
            }

            place = entry.Queue.AddLast(new TaskCompletionSource<TimeSpan>(TaskCreationOptions.RunContinuationsAsynchronously));
        }

        await using var left = cancellationToken.Register(() =>
        {
            lock (gate)
            {
                // Taken out of the queue, or else its turn came already.
                if (place.List is not null)
                {
                    entry.Queue.Remove(place);
                    place.Value.TrySetCanceled(cancellationToken);
                }
            }
        });
        return await place.Value.Task;
    }

    /// <summary>Ends a try that was begun. A right one takes back nothing but itself; one that nobody looked at counts for nothing.</summary>
    public void End(string name, bool wrong)
    {
        lock (gate)
        {
            if (Find(name) is not { } entry)
            {
                return;
            }

            entry.Looking = Math.Max(0, entry.Looking - 1);
            if (wrong)
            {
                var now = time.GetUtcNow();
                entry.Wrong = now - entry.Last >= memory ? 1 : entry.Wrong + 1;
                entry.Last = now;
            }

            var wait = WaitOf(entry);
            while (entry.Queue.First is { } next && (wait > TimeSpan.Zero || entry.Looking < Room(entry)))
            {
                entry.Queue.RemoveFirst();
                entry.Looking += wait > TimeSpan.Zero ? 0 : 1;
                next.Value.TrySetResult(wait);
            }
        }
    }

    /// <summary>How many tries may be looked at together: those that are free still, and one where none is.</summary>
    private int Room(Entry entry) => Math.Max(1, time.GetUtcNow() - entry.Last >= memory ? free : free - entry.Wrong);

    private TimeSpan WaitOf(Entry entry)
    {
        var now = time.GetUtcNow();
        if (entry.Wrong < free || now - entry.Last >= memory)
        {
            return TimeSpan.Zero;
        }

        var wait = TimeSpan.FromSeconds(Math.Min(Math.Pow(2, Math.Min(entry.Wrong - free, 20)), longestWait.TotalSeconds));
        var left = entry.Last + wait - now;
        return left > TimeSpan.Zero ? left : TimeSpan.Zero;
    }

    private Entry? Find(string name)
    {
        if (young.TryGetValue(name, out var entry))
        {
            return entry;
        }

        if (!old.Remove(name, out entry))
        {
            return null;
        }

        Keep(name, entry);
        return entry;
    }

    private Entry Add(string name)
    {
        var entry = new Entry();
        Keep(name, entry);
        return entry;
    }

    /// <summary>Two halves: when the young one is full, the old one is forgotten, but for tries that are looked at.</summary>
    private void Keep(string name, Entry entry)
    {
        if (young.Count >= mostNames / 2)
        {
            var busy = old.Where(o => o.Value.Looking > 0 || o.Value.Queue.Count > 0).ToList();
            (old, young) = (young, new Dictionary<string, Entry>(busy, StringComparer.Ordinal));
        }

        young[name] = entry;
    }
}
