using System.Text;

namespace WarySentinel.Core.Catalogue;

/// <summary>Makes keys from titles.</summary>
public static class Slug
{
    private const string Accented = "àáâãäåāăąçćčèéêëēęěìíîïīłñńňòóôõöøōŕřśšșťțùúûüūůýÿźžż";
    private const string Plain = "aaaaaaaaaccceeeeeeeiiiiilnnnooooooorrsssttuuuuuuyyzzz";

    /// <summary>Lower-case letters and digits joined by hyphens; empty when the title has none.</summary>
    public static string Of(string title)
    {
        var built = new StringBuilder();
        foreach (var letter in title.ToLowerInvariant())
        {
            var c = Accented.IndexOf(letter, StringComparison.Ordinal) is >= 0 and var at ? Plain[at] : letter;
            if (char.IsAsciiLetterOrDigit(c))
            {
                built.Append(c);
            }
            else if (built.Length > 0 && built[^1] != '-' && c is not ('’' or '\''))
            {
                built.Append('-');
            }
        }

        var slug = built.ToString().Trim('-');
        return slug.Length > 100 ? slug[..100].Trim('-') : slug;
    }
}
