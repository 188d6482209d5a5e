using System.Text.RegularExpressions;

namespace WarySentinel.Core.Sweep;

/// <summary>What a pattern finds in what a site gave. A text made to be slow to read, or a machine that is, ends the search; it never ends the sweep.</summary>
public static class PatientMatches
{
    private static readonly AsyncLocal<Watch?> Watched = new();

    /// <summary>How long one search may take before it is given up, in milliseconds.</summary>
    public const int Longest = 10_000;

    /// <summary>From here on, in what is called from here, notes whether a search is given up.</summary>
    public static Watch Watching() => Watched.Value = new Watch();

    /// <summary>All that is found until it takes too long.</summary>
    public static IEnumerable<Match> In(this Regex pattern, string text)
    {
        for (var match = Next(() => pattern.Match(text)); match.Success; match = Next(match.NextMatch))
        {
            yield return match;
        }
    }

    /// <summary>A text with what is found taken out of it; the text as it is where that takes too long.</summary>
    public static string TakeOut(this Regex pattern, string text)
    {
        try
        {
            return pattern.Replace(text, "");
        }
        catch (RegexMatchTimeoutException)
        {
            Watched.Value?.GiveUp();
            return text;
        }
    }

    /// <summary>What is found first from a place on; nothing where that takes too long.</summary>
    public static Match FirstFrom(this Regex pattern, string text, int at) => Next(() => pattern.Match(text, at));

    private static Match Next(Func<Match> search)
    {
        try
        {
            return search();
        }
        catch (RegexMatchTimeoutException)
        {
            Watched.Value?.GiveUp();
            return Match.Empty;
        }
    }

    /// <summary>Whether a search was given up.</summary>
    public sealed class Watch
    {
        /// <summary>Whether one was.</summary>
        public bool HasGivenUp { get; private set; }

        internal void GiveUp() => HasGivenUp = true;
    }
}
