namespace WarySentinel.Core;

/// <summary>Finds the known word that a mistyped one was probably meant to be.</summary>
public static class Nearest
{
    /// <summary>The known word with the smallest edit distance, or null when none is within a third of its length plus one.</summary>
    public static string? To(string typed, IEnumerable<string> known)
    {
        string? best = null;
        var bestDistance = int.MaxValue;
        var limit = (Math.Min(typed.Length, 64) / 3) + 1;
        foreach (var word in known)
        {
            if (Math.Abs(word.Length - typed.Length) > limit || word.Length > 64)
            {
                continue;
            }

            var distance = Distance(typed, word);
            if (distance < bestDistance || (distance == bestDistance && string.CompareOrdinal(word, best) < 0))
            {
                (best, bestDistance) = (word, distance);
            }
        }

        return bestDistance <= limit ? best : null;
    }

    private static int Distance(string a, string b)
    {
        var previous = new int[b.Length + 1];
        var current = new int[b.Length + 1];
        for (var j = 0; j <= b.Length; j++)
        {
            previous[j] = j;
        }

        for (var i = 1; i <= a.Length; i++)
        {
            current[0] = i;
            for (var j = 1; j <= b.Length; j++)
            {
                var cost = char.ToLowerInvariant(a[i - 1]) == char.ToLowerInvariant(b[j - 1]) ? 0 : 1;
                current[j] = Math.Min(Math.Min(current[j - 1], previous[j]) + 1, previous[j - 1] + cost);
            }

            (previous, current) = (current, previous);
        }

        return previous[b.Length];
    }
}
