using System.Collections.Concurrent;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>Addresses that an outsider comes to from what they get, each once, and no more of one shape than tell something.</summary>
internal sealed class SweepTrail(SweepSite site, IEnumerable<string> asked)
{
    /// <summary>Most addresses beside the catalogue's that are asked for.</summary>
    public const int Most = 2000;

    private const int MostGuessed = 4000;
    private const int MostOfAShape = 3;
    private const int MostForms = 3;
    private readonly ConcurrentDictionary<string, bool> known = new(asked.Select(a => KeyValuePair.Create(a, true)), StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, int> shapes = new(StringComparer.Ordinal);
    private readonly ConcurrentQueue<string> next = [];
    private int taken;
    private int guessed;
    private int forms;
    private int left;

    /// <summary>How many there were beyond the bound.</summary>
    public int LeftOut => left;

    /// <summary>Addresses that a text leads to and that were not known yet.</summary>
    public IReadOnlyList<string> New(string text, string page) =>
        [.. SweepLinks.From(text, page, site.Hosts).Distinct(StringComparer.Ordinal).Where(a => IsNew(a, out _)).Take(Most)];

    /// <summary>Notes searches that a page offers: of the first few pages that offer any.</summary>
    public void Search(IReadOnlyList<string> searches)
    {
        if (searches.Count > 0 && Interlocked.Increment(ref forms) <= MostForms)
        {
            Add(searches);
        }
    }

    /// <summary>Notes an address that is only guessed: as many as are worth it.</summary>
    public void Guess(string address)
    {
        if (guessed < MostGuessed && site.PathOf(address) is { } path && !IsOurs(path) && known.TryAdd(path.SentWithQuery, true))
        {
            guessed++;
            next.Enqueue(path.SentWithQuery);
        }
    }

    /// <summary>Notes addresses.</summary>
    public void Add(IEnumerable<string> addresses)
    {
        foreach (var address in addresses)
        {
            if (!IsNew(address, out var path) || (path!.Query.Length > 0
                && shapes.AddOrUpdate(SweepLinks.ShapeOf(path.SentWithQuery), 1, (_, n) => n + 1) > MostOfAShape) || !known.TryAdd(path.SentWithQuery, true))
            {
                continue;
            }

            if (Interlocked.Increment(ref taken) > Most)
            {
                Interlocked.Increment(ref left);
                continue;
            }

            next.Enqueue(path.SentWithQuery);
        }
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

    private bool IsNew(string address, out RequestPath? path)
    {
        path = site.PathOf(address);
        return path is not null && !IsOurs(path) && !known.ContainsKey(path.SentWithQuery)
            && (path.Query.Length == 0 || shapes.GetValueOrDefault(SweepLinks.ShapeOf(path.SentWithQuery)) < MostOfAShape);
    }

    private bool IsOurs(RequestPath path) => site.Reserved.Any(r => RequestPath.IsUnder(path.Key, r));
}
