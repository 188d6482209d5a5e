using System.Text;

namespace WarySentinel.Core.Catalogue;

/// <summary>Makes keys from titles.</summary>
public static class Slug
{
    /// <summary>Lower-case letters and digits joined by hyphens; empty when the title has none.</summary>
    public static string Of(string title)
    {
        var built = new StringBuilder();
        foreach (var c in title.Normalize(NormalizationForm.FormD).ToLowerInvariant())
        {
            if (char.IsAsciiLetterOrDigit(c))
            {
                built.Append(c);
            }
            else if (built.Length > 0 && built[^1] != '-' && !char.IsControl(c) && char.GetUnicodeCategory(c) != System.Globalization.UnicodeCategory.NonSpacingMark && c is not ('’' or '\''))
            {
                built.Append('-');
            }
        }

        var slug = built.ToString().Trim('-');
        return slug.Length > 100 ? slug[..100].Trim('-') : slug;
    }
}
