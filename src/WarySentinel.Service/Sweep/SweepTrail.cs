using System.Collections.Concurrent;
using System.Text.RegularExpressions;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>Addresses that an outsider comes to from what they get, each once, and no more of one shape than tell something.</summary>
internal sealed class SweepTrail(Policy policy, IReadOnlySet<string> hosts, IReadOnlyList<string> reserved, IEnumerable<string> asked)
{
    /// <summary>Most addresses beside the catalogue's that are asked for.</summary>
    public const int Most = 2000;

    private const int MostGuessed = 4000;
    private const int MostOfAShape = 3;
    private readonly ConcurrentDictionary<string, bool> known = new(asked.Select(a => KeyValuePair.Create(a, true)), StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, int> shapes = new(StringComparer.Ordinal);
    private readonly ConcurrentQueue<string> next = [];
    private int taken;
    private int guessed;
    private int left;

    /// <summary>How many there were beyond the bound.</summary>
    public int LeftOut => left;

    /// <summary>Notes where a text leads to.</summary>
    public void Follow(string text, string page)
    {
        try
        {
            foreach (var address in SweepLinks.From(text, page, hosts))
            {
                Add(address);
            }
        }
        catch (RegexMatchTimeoutException)
        {
            // A text made to be slow to read names what it names; the rest of the site is looked at all the same.
        }
    }

    /// <summary>Notes an address that is only guessed: as many as are worth it.</summary>
    public void Guess(string address)
    {
        if (guessed < MostGuessed && RequestPath.TryNormalise(address, policy.Settings.Paths, out var path, out _) && !IsOurs(path)
            && known.TryAdd(path.SentWithQuery, true))
        {
            guessed++;
            next.Enqueue(path.SentWithQuery);
        }
    }

    /// <summary>Notes an address.</summary>
    public void Add(string address)
    {
        if (!RequestPath.TryNormalise(address, policy.Settings.Paths, out var path, out _) || IsOurs(path) || known.ContainsKey(path.SentWithQuery)
            || (path.Query.Length > 0 && shapes.AddOrUpdate(SweepLinks.ShapeOf(path.SentWithQuery), 1, (_, n) => n + 1) > MostOfAShape)
            || !known.TryAdd(path.SentWithQuery, true))
        {
            return;
        }

        if (Interlocked.Increment(ref taken) > Most)
        {
            Interlocked.Increment(ref left);
            return;
        }

        next.Enqueue(path.SentWithQuery);
    }

    /// <summary>The addresses that came since it was asked last.</summary>
    public IReadOnlyList<string> Take()
    {
        var all = new List<string>();
        while (next.TryDequeue(out var one))
        {
            all.Add(one);
        }

        all.Sort(StringComparer.Ordinal);
        return all;
    }

    private bool IsOurs(RequestPath path) => reserved.Any(r => RequestPath.IsUnder(path.Key, r));
}
