using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace WarySentinel.Core.Markup;

/// <summary>Reads the filters of a JSONPath (RFC 9535 §2.3.5 and §2.4).</summary>
internal sealed partial class JsonPathReader
{
    private static readonly string[] Signs = ["==", "!=", "<=", ">=", "<", ">"];

    private JsonTest? Either() => Several("||", Both) is not { } tests ? null : tests is [var only] ? only : new EitherTest(tests);

    private JsonTest? Both() => Several("&&", One) is not { } tests ? null : tests is [var only] ? only : new BothTest(tests);

    private List<JsonTest>? Several(string sign, Func<JsonTest?> next)
    {
        var all = new List<JsonTest>();
        do
        {
            Blanks();
            if (next() is not { } test)
            {
                return null;
            }

            all.Add(test);
            Blanks();
        }
        while (Takes(sign));
        return all;
    }

    private JsonTest? One()
    {
        if (++depth > Deepest)
        {
            return null;
        }

        var test = Takes("!") ? Negated() : Sign == '(' ? Bracketed() : Compared();
        depth--;
        return test;
    }

    private NotTest? Negated()
    {
        Blanks();
        return (Sign == '(' ? Bracketed() : TestOf(Part())) is { } test ? new NotTest(test) : null;
    }

    private JsonTest? Bracketed()
    {
        at++;
        return Either() is { } test && Takes(")") ? test : null;
    }

    private JsonTest? Compared()
    {
        var part = Part();
        var here = at;
        Blanks();
        var sign = Array.Find(Signs, Takes);
        if (sign is null)
        {
            at = here;
            return TestOf(part);
        }

        if (OperandOf(part) is not { } left)
        {
            at = here;
            return null;
        }

        Blanks();
        here = at;
        if (OperandOf(Part()) is { } right)
        {
            return new CompareTest(left, sign, right);
        }

        at = Math.Max(at, here);
        return null;
    }

    /// <summary>A part that says yes or no by itself.</summary>
    private static JsonTest? TestOf(object? part) => part switch { JsonQuery query => new ThereTest(query), JsonTest test => test, _ => null };

    /// <summary>A part that has a value.</summary>
    private static JsonOperand? OperandOf(object? part) => part switch
    {
        JsonQuery { IsSingular: true } query => new ValueOf(query),
        JsonOperand operand => operand,
        _ => null,
    };

    /// <summary>A query, a value as it is written, or a function.</summary>
    private object? Part()
    {
        switch (Sign)
        {
            case '@' or '$':
                var isWhole = text[at++] == '$';
                return Segments() is { } segments ? new JsonQuery(isWhole, segments) : null;
            case '\'' or '"':
                return Quoted() is { } said ? new Literal(new Said(Said.Sorts.Text, said)) : null;
            case '-' or (>= '0' and <= '9'):
                return Number();
        }

        var start = at;
        while (char.IsAsciiLetterLower(Sign) || (at > start && (Sign == '_' || char.IsAsciiDigit(Sign))))
        {
            at++;
        }

        var word = text[start..at];
        if (Sign == '(' && Function(word, start) is { } function)
        {
            return function;
        }

        if (Sign != '(' && word is "null" or "true" or "false")
        {
            return new Literal(new Said(word == "null" ? Said.Sorts.Null : word == "true" ? Said.Sorts.True : Said.Sorts.False));
        }

        return null;
    }

    private Literal? Number()
    {
        var match = NumberForm().Match(text, at);
        if (!match.Success)
        {
            return null;
        }

        at += match.Length;
        return new Literal(new Said(Said.Sorts.Number, Number: double.Parse(match.Value, CultureInfo.InvariantCulture)));
    }

    /// <summary>The functions of RFC 9535 §2.4.4 to §2.4.8.</summary>
    private object? Function(string name, int start)
    {
        var isKnown = name is "length" or "count" or "value" or "match" or "search";
        if (!isKnown || ++depth > Deepest)
        {
            at = isKnown ? at : start;
            return null;
        }

        at++;
        Blanks();
        object? first = Part(), made = name switch
        {
            "length" => OperandOf(first) is { } value ? new LengthOf(value) : null,
            "count" => first is JsonQuery query ? new CountOf(query) : null,
            "value" => first is JsonQuery query ? new ValueOf(query) : null,
            _ => OperandOf(first) is { } text ? Pattern(text, name == "match") : null,
        };
        Blanks();
        depth--;
        return made is not null && Takes(")") ? made : null;
    }

    private PatternTest? Pattern(JsonOperand subject, bool isWhole)
    {
        Blanks();
        if (!Takes(","))
        {
            return null;
        }

        Blanks();
        var here = at;
        if (Sign is '\'' or '"' && Quoted() is { } said && Interoperable(said) is { } form)
        {
            try
            {
                return new PatternTest(subject, new Regex(isWhole ? $@"\A(?:{form})\z" : form, RegexOptions.NonBacktracking | RegexOptions.CultureInvariant));
            }
            catch (Exception fault) when (fault is ArgumentException or NotSupportedException)
            {
                // It is none.
            }
        }

        at = here;
        return null;
    }

    /// <summary>A pattern of RFC 9485 as .NET reads it; null for what is none there.</summary>
    private static string? Interoperable(string pattern)
    {
        var (form, isInClass, isRepeated) = (new StringBuilder(), false, true);
        for (var n = 0; n < pattern.Length; n++)
        {
            var sign = pattern[n];
            if (sign == '\\')
            {
                if (++n >= pattern.Length || !"()*+-.?[\\]^{|}nrtpP".Contains(pattern[n], StringComparison.Ordinal))
                {
                    return null;
                }

                form.Append('\\').Append(pattern[n]);
                isRepeated = false;
                continue;
            }

            var isOpening = sign == '[' && !isInClass;
            // A class in a class, a group of a sort of its own and a lazy repetition are .NET's, not of RFC 9485.
            if (isInClass ? sign == '[' : isRepeated && sign is '*' or '+' or '?' or '{')
            {
                return null;
            }

            form.Append(isInClass ? sign.ToString() : sign switch
            {
                '.' => @"(?:[\uD800-\uDBFF][\uDC00-\uDFFF]|[^\n\r])",
                '^' or '$' or '#' or ' ' => "\\" + sign,
                _ => sign.ToString(),
            });
            isInClass = isOpening || (isInClass && sign != ']');
            isRepeated = !isInClass && sign is '(' or '|' or '*' or '+' or '?' or '}';
        }

        return form.ToString();
    }

    [GeneratedRegex(@"\G-?(?:0|[1-9][0-9]*)(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?")]
    private static partial Regex NumberForm();
}
