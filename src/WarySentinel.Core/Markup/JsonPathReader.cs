using System.Globalization;
using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>
/// Reads a JSONPath by the grammar of RFC 9535; beyond it, names may hold hyphens, digits and at signs where they need no quotes. Whatever cannot be read
/// gives null, and its place is where the reader then stands.
/// </summary>
internal sealed partial class JsonPathReader(string text)
{
    private const int MostSegments = 20;
    private const int Deepest = 8;
    private const long Furthest = (1L << 53) - 1;
    private int at;
    private int depth;

    /// <summary>Where it stands, from 1.</summary>
    public int Column => at + 1;

    private char Sign => at < text.Length ? text[at] : '\0';

    /// <summary>All of the text, which begins with the sign of its root.</summary>
    public JsonQuery? Whole()
    {
        at = 1;
        return Segments() is { } segments && at == text.Length ? new JsonQuery(text[0] == '$', segments) : null;
    }

    private List<JsonSegment>? Segments()
    {
        var all = new List<JsonSegment>();
        while (true)
        {
            var here = at;
            Blanks();
            if (Sign is not ('.' or '['))
            {
                at = here;
                return all;
            }

            if (all.Count >= MostSegments || Segment() is not { } segment)
            {
                return null;
            }

            all.Add(segment);
        }
    }

    private JsonSegment? Segment()
    {
        var isDeep = Takes("..");
        if (Sign == '[' || (!isDeep && !Takes(".")))
        {
            return Bracket() is { } selectors ? new JsonSegment(isDeep, selectors) : null;
        }

        if (Takes("*"))
        {
            return new JsonSegment(isDeep, [new AnySelector()]);
        }

        var start = at;
        while (char.IsLetterOrDigit(Sign) || Sign is '_' or '-' or '$' or '@' or >= (char)0x80)
        {
            at++;
        }

        return at == start ? null : new JsonSegment(isDeep, [new NameSelector(text[start..at])]);
    }

    private List<JsonSelector>? Bracket()
    {
        var all = new List<JsonSelector>();
        do
        {
            at++;
            Blanks();
            if (Selector() is not { } selector)
            {
                return null;
            }

            all.Add(selector);
            Blanks();
        }
        while (Sign == ',');
        return Takes("]") ? all : null;
    }

    private JsonSelector? Selector()
    {
        if (Sign is '\'' or '"')
        {
            return Quoted() is { } name ? new NameSelector(name) : null;
        }

        if (Takes("*"))
        {
            return new AnySelector();
        }

        if (Takes("?"))
        {
            return Either() is { } test ? new FilterSelector(test) : null;
        }

        var from = Place();
        if (from is { IsFault: true })
        {
            return null;
        }

        var here = at;
        Blanks();
        if (!Takes(":"))
        {
            at = here;
            return from.Value is { } place ? new PlaceSelector(place) : null;
        }

        Blanks();
        var (to, step) = (Place(), default((long? Value, bool IsFault)));
        here = at;
        Blanks();
        if (Takes(":"))
        {
            Blanks();
            step = Place();
        }
        else
        {
            at = here;
        }

        return to.IsFault || step.IsFault ? null : new SliceSelector(from.Value, to.Value, step.Value ?? 1);
    }

    /// <summary>A whole number, or nothing; a fault where it is written as RFC 9535 has none, or is too large.</summary>
    private (long? Value, bool IsFault) Place()
    {
        var start = at;
        _ = Takes("-");
        while (char.IsAsciiDigit(Sign))
        {
            at++;
        }

        var said = text.AsSpan(start, at - start);
        if (said.IsEmpty)
        {
            return default;
        }

        if (said is "-" || said.StartsWith("-0") || (said.Length > 1 && said[0] == '0')
            || !long.TryParse(said, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var place) || Math.Abs(place) > Furthest)
        {
            at = start;
            return (null, true);
        }

        return (place, false);
    }

    /// <summary>A text in quotes, with its escapes read.</summary>
    private string? Quoted()
    {
        var (quote, said) = (text[at++], new StringBuilder());
        while (Sign != quote)
        {
            if (at >= text.Length || Sign < ' ' || (Sign == '\\' ? !Escape(quote, said) : !Plain(said)))
            {
                return null;
            }
        }

        at++;
        return said.ToString();
    }

    private bool Plain(StringBuilder said)
    {
        said.Append(text[at++]);
        return true;
    }

    private bool Escape(char quote, StringBuilder said)
    {
        at++;
        var sign = Sign;
        if (sign == 'u')
        {
            return Unit(said) is { } unit && (!char.IsSurrogate(unit) || (char.IsHighSurrogate(unit) && Takes("\\") && Unit(said) is { } second
                && char.IsLowSurrogate(second)));
        }

        var read = sign switch { 'n' => '\n', 't' => '\t', 'r' => '\r', 'b' => '\b', 'f' => '\f', '/' or '\\' => sign, _ => sign == quote ? sign : '\0' };
        if (read == '\0')
        {
            return false;
        }

        said.Append(read);
        at++;
        return true;
    }

    /// <summary>A sign, or half of one, by its number.</summary>
    private char? Unit(StringBuilder said)
    {
        if (Sign != 'u' || at + 4 >= text.Length
            || !ushort.TryParse(text.AsSpan(at + 1, 4), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var unit))
        {
            return null;
        }

        said.Append((char)unit);
        at += 5;
        return (char)unit;
    }

    private bool Takes(string sign)
    {
        if (!text.AsSpan(at).StartsWith(sign, StringComparison.Ordinal))
        {
            return false;
        }

        at += sign.Length;
        return true;
    }

    private void Blanks()
    {
        while (Sign is ' ' or '\t' or '\n' or '\r')
        {
            at++;
        }
    }
}
