using System.Globalization;
using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>Reads a selector (Selectors Level 4 §17, CSS Syntax Level 3 §4.3).</summary>
internal sealed class CssSelectorReader(string text)
{
    private const int LongestName = 200;
    private int at;
    private int seen;

    /// <summary>What is wrong, as a key of words; empty for nothing.</summary>
    public string Fault { get; private set; } = "";

    /// <summary>Where, from 1.</summary>
    public int Column { get; private set; }

    /// <summary>The compounds, in the order in which they stand; null where something is wrong.</summary>
    public List<CssSelector.Compound>? Read()
    {
        var all = new List<CssSelector.Compound>();
        var way = CssSelector.Way.First;
        SkipBlanks();
        while (Fault.Length == 0)
        {
            var (start, compound) = (at, ReadCompound(way));
            if (compound is null)
            {
                return Fail(at >= text.Length || at > start ? "selector-cut-off" : CodeOf(text[at]), start);
            }

            all.Add(compound);
            if (++seen > CssSelector.MostCompounds)
            {
                return Fail("selector-long", start);
            }

            var blank = SkipBlanks();
            if (at >= text.Length || text[at] == ',')
            {
                compound.IsLast = true;
                if (at >= text.Length)
                {
                    return all;
                }

                (at, way) = (at + 1, CssSelector.Way.First);
                SkipBlanks();
                continue;
            }

            way = text[at] == '>' ? CssSelector.Way.Child : CssSelector.Way.Descendant;
            if (way == CssSelector.Way.Child)
            {
                at++;
                SkipBlanks();
            }
            else if (!blank)
            {
                return Fail(CodeOf(text[at]), at);
            }
        }

        return null;
    }

    private static string CodeOf(char sign) => sign is '+' or '~' or ':' ? "selector-too-much" : "selector-sign";

    private List<CssSelector.Compound>? Fail(string fault, int place)
    {
        if (Fault.Length == 0)
        {
            (Fault, Column) = (fault, place + 1);
        }

        return null;
    }

    private CssSelector.Compound? ReadCompound(CssSelector.Way way)
    {
        var start = at;
        string? type = null;
        if (at < text.Length && text[at] == '*')
        {
            at++;
        }
        else if (Name() is { Length: > 0 } name)
        {
            type = name.ToLowerInvariant();
        }

        var conditions = new List<CssSelector.Condition>();
        while (at < text.Length && ReadCondition(false) is { } condition)
        {
            conditions.Add(condition);
        }

        return at == start || Fault.Length > 0 ? null : new CssSelector.Compound(way, type, conditions);
    }

    private CssSelector.Condition? ReadCondition(bool isNot)
    {
        var start = at;
        switch (text[at])
        {
            case '.' or '#':
                at++;
                var name = Name();
                if (name.Length == 0)
                {
                    Fail("selector-cut-off", start);
                    return null;
                }

                return text[start] == '.' ? new("class", "~=", name, false, isNot) : new("id", "=", name, false, isNot);
            case '[':
                at++;
                return ReadAttribute(isNot);
            case ':' when !isNot && string.Compare(text, at, ":not(", 0, 5, StringComparison.OrdinalIgnoreCase) == 0:
                at += 5;
                SkipBlanks();
                var condition = at < text.Length ? ReadCondition(true) : null;
                SkipBlanks();
                if (condition is null || at >= text.Length || text[at++] != ')')
                {
                    Fail("selector-cut-off", start);
                    return null;
                }

                return condition;
            case ':':
                Fail("selector-too-much", start);
                return null;
            default:
                return null;
        }
    }

    private CssSelector.Condition? ReadAttribute(bool isNot)
    {
        var start = at - 1;
        SkipBlanks();
        var name = Name().ToLowerInvariant();
        SkipBlanks();
        var (sign, value, ignores) = ("", "", false);
        if (at < text.Length && text[at] != ']')
        {
            sign = text[at] == '=' ? "=" : at + 1 < text.Length && text[at + 1] == '=' && text[at] is '~' or '|' or '^' or '$' or '*' ? text[at] + "=" : "";
            at += sign.Length;
            SkipBlanks();
            value = at < text.Length && text[at] is '"' or '\'' ? Quoted() : Name();
            SkipBlanks();
            ignores = at < text.Length && text[at] is 'i' or 'I';
            at += ignores || (at < text.Length && text[at] is 's' or 'S') ? 1 : 0;
            SkipBlanks();
            if (sign.Length == 0)
            {
                Fail("selector-sign", start);
                return null;
            }
        }

        if (name.Length == 0 || at >= text.Length || text[at] != ']')
        {
            Fail("selector-cut-off", start);
            return null;
        }

        at++;
        return new(name, sign, value, ignores, isNot);
    }

    private string Quoted()
    {
        var quote = text[at++];
        var said = new StringBuilder();
        while (at < text.Length && text[at] != quote)
        {
            said.Append(text[at] == '\\' && at + 1 < text.Length ? Escaped() : text[at++].ToString());
        }

        at = Math.Min(text.Length, at + 1);
        return said.ToString();
    }

    private string Name()
    {
        var said = new StringBuilder();
        while (at < text.Length && said.Length < LongestName)
        {
            var sign = text[at];
            if (sign == '\\' && at + 1 < text.Length)
            {
                said.Append(Escaped());
            }
            else if (char.IsAsciiLetterOrDigit(sign) || sign is '-' or '_' || sign >= 0x80)
            {
                said.Append(sign);
                at++;
            }
            else
            {
                break;
            }
        }

        return said.ToString();
    }

    /// <summary>A sign behind a backslash, or the number of one (CSS Syntax §4.3.7).</summary>
    private string Escaped()
    {
        var from = ++at;
        while (at < text.Length && at - from < 6 && char.IsAsciiHexDigit(text[at]))
        {
            at++;
        }

        if (at == from)
        {
            return text[at++].ToString();
        }

        var number = int.Parse(text[from..at], NumberStyles.HexNumber, CultureInfo.InvariantCulture);
        at += at < text.Length && char.IsWhiteSpace(text[at]) ? 1 : 0;
        return Rune.IsValid(number) ? new Rune(number).ToString() : "\uFFFD";
    }

    private bool SkipBlanks()
    {
        var from = at;
        while (at < text.Length && char.IsWhiteSpace(text[at]))
        {
            at++;
        }

        return at > from;
    }
}
