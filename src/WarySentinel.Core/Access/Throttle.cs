using System.Collections.Concurrent;

namespace WarySentinel.Core.Access;

/// <summary>
/// Slows repeated wrong tries down: some are free, then each costs twice the wait of the one before.
/// Kept in memory; a name that was quiet for the whole memory starts afresh. Thread-safe.
/// </summary>
public sealed class Throttle(TimeProvider time, int free, TimeSpan longestWait, TimeSpan memory)
{
    private const int MostNames = 200_000;
    private readonly ConcurrentDictionary<string, Entry> entries = new(StringComparer.Ordinal);

    private readonly record struct Entry(int Wrong, DateTimeOffset Last);

    /// <summary>How long the name must wait before its next try; zero when it may try now.</summary>
    public TimeSpan WaitOf(string name)
    {
        if (!entries.TryGetValue(name, out var entry))
        {
            return TimeSpan.Zero;
        }

        var now = time.GetUtcNow();
        if (now - entry.Last >= memory)
        {
            entries.TryRemove(name, out _);
            return TimeSpan.Zero;
        }

        var over = entry.Wrong - free;
        if (over < 0)
        {
            return TimeSpan.Zero;
        }

        var wait = TimeSpan.FromSeconds(Math.Min(Math.Pow(2, Math.Min(over, 20)), longestWait.TotalSeconds));
        var left = entry.Last + wait - now;
        return left > TimeSpan.Zero ? left : TimeSpan.Zero;
    }

    /// <summary>How many tries are left before waiting begins.</summary>
    public int FreeLeft(string name) => entries.TryGetValue(name, out var entry) ? Math.Max(0, free - entry.Wrong) : free;

    /// <summary>Notes a try before it is checked, so that tries at the same time count as well.</summary>
    public void Wrong(string name)
    {
        var now = time.GetUtcNow();
        if (entries.Count >= MostNames)
        {
            foreach (var (key, entry) in entries)
            {
                if (now - entry.Last >= memory || entries.Count >= MostNames * 2)
                {
                    entries.TryRemove(key, out _);
                }
            }
        }

        entries.AddOrUpdate(name, _ => new Entry(1, now), (_, old) => new Entry(now - old.Last >= memory ? 1 : old.Wrong + 1, now));
    }

    /// <summary>Forgets a name after a right try.</summary>
    public void Right(string name) => entries.TryRemove(name, out _);
}
