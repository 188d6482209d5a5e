using System.Collections.Frozen;
using System.Globalization;
using System.Text;

namespace WarySentinel.Core;

/// <summary>
/// Texts as they are searched: without case, and without the accents that a search may leave out. The service runs without ICU, and so without the
/// framework's normalisation: letters with their accents in one are taken apart by the table <c>folds.txt</c> (Unicode 15, canonical decompositions of
/// small letters up to U+1FFF).
/// </summary>
public static class Folded
{
    private static readonly FrozenDictionary<char, char> Bases = Read();

    /// <summary>The folded text: lower case, accents and other combining marks left out.</summary>
    public static string Of(string text)
    {
        if (Ascii.IsValid(text))
        {
            return text.ToLowerInvariant();
        }

        var folded = new StringBuilder(text.Length);
        foreach (var character in text.ToLowerInvariant())
        {
            if (CharUnicodeInfo.GetUnicodeCategory(character) is not UnicodeCategory.NonSpacingMark)
            {
                folded.Append(Bases.GetValueOrDefault(character, character));
            }
        }

        return folded.ToString();
    }

    private static FrozenDictionary<char, char> Read()
    {
        using var stream = typeof(Folded).Assembly.GetManifestResourceStream("WarySentinel.Core.folds.txt")
            ?? throw new InvalidOperationException("The resource folds.txt is missing from the build.");
        using var reader = new StreamReader(stream, Encoding.UTF8);
        return reader.ReadToEnd().Where(c => c != '\n').Chunk(2).ToFrozenDictionary(pair => pair[0], pair => pair[1]);
    }
}
