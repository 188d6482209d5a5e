namespace WarySentinel.Core;

/// <summary>Patterns in which a star stands for anything.</summary>
public static class Starred
{
    /// <summary>Whether a pattern stands for a text, capital letters or not. Costs no more than the product of their lengths.</summary>
    public static bool Matches(string pattern, string text)
    {
        var (p, t, star, back) = (0, 0, -1, 0);
        while (t < text.Length)
        {
            if (p < pattern.Length && pattern[p] == '*')
            {
                (star, back) = (p++, t);
            }
            else if (p < pattern.Length && char.ToUpperInvariant(pattern[p]) == char.ToUpperInvariant(text[t]))
            {
                (p, t) = (p + 1, t + 1);
            }
            else if (star >= 0)
            {
                (p, t) = (star + 1, ++back);
            }
            else
            {
                return false;
            }
        }

        return pattern.AsSpan(p).Trim('*').IsEmpty;
    }
}
