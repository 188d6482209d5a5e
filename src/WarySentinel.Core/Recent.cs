using System.Collections.Concurrent;
using System.Diagnostics.CodeAnalysis;

namespace WarySentinel.Core;

/// <summary>
/// What was lately asked for, by name, up to a number: when it is full, what was not asked for longest goes, never everything. Two halves: what is
/// found in the old one moves to the young one; when that is full, it becomes the old one. Thread-safe; a look-up takes no lock and
/// allocates nothing.
/// </summary>
/// <typeparam name="T">What is kept.</typeparam>
public sealed class Recent<T>
{
    private readonly int half;
    private readonly Lock turning = new();
    private volatile Half young = new();
    private volatile Half old = new();

    /// <summary>Keeps at most so many; at least half as many of those that were asked for last.</summary>
    public Recent(int most) => half = Math.Max(1, most / 2);

    private sealed class Half
    {
        public Half() => BySpan = ByName.GetAlternateLookup<ReadOnlySpan<char>>();

        public ConcurrentDictionary<string, T> ByName { get; } = new(StringComparer.Ordinal);

        public ConcurrentDictionary<string, T>.AlternateLookup<ReadOnlySpan<char>> BySpan { get; }

        public int Count;
    }

    /// <summary>How many are kept.</summary>
    public int Count => young.ByName.Count + old.ByName.Keys.Count(k => !young.ByName.ContainsKey(k));

    /// <summary>What is kept under a name.</summary>
    public bool TryGet(ReadOnlySpan<char> name, [MaybeNullWhen(false)] out T value)
    {
        if (young.BySpan.TryGetValue(name, out value))
        {
            return true;
        }

        if (!old.BySpan.TryGetValue(name, out var key, out value))
        {
            return false;
        }

        // What was kept anew meanwhile stays.
        TryAdd(young, key, value);
        return true;
    }

    /// <summary>Keeps something under a name. Nothing is forgotten by name: what can change says itself whether it still holds.</summary>
    public void Keep(string name, T value)
    {
        var to = young;
        if (!TryAdd(to, name, value))
        {
            to.ByName[name] = value;
        }
    }

    private bool TryAdd(Half to, string name, T value)
    {
        if (!to.ByName.TryAdd(name, value))
        {
            return false;
        }

        if (Interlocked.Increment(ref to.Count) >= half)
        {
            Turn(to);
        }

        return true;
    }

    private void Turn(Half full)
    {
        lock (turning)
        {
            if (ReferenceEquals(full, young))
            {
                old = full;
                young = new Half();
            }
        }
    }
}
