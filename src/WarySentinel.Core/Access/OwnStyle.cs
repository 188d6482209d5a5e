using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using System.Text;
using System.Text.RegularExpressions;
using AngleSharp.Css.Dom;
using AngleSharp.Css.Parser;

namespace WarySentinel.Core.Access;

/// <summary>
/// Where a style of the owner's own holds: what its rules are for, as they are typed, and how that is said in the page that they are written into.
/// </summary>
/// <param name="Typed">The selector that a rule may begin with; what does not is taken to be within it.</param>
/// <param name="Written">The selector that stands in the page.</param>
public sealed record StyleScope(string Typed, string Written)
{
    /// <summary>The panel of the service's own pages.</summary>
    public static readonly StyleScope Panel = new(".panel", ".panel");

    /// <summary>A page that the owner wrote, where it stands alone.</summary>
    public static readonly StyleScope Hosted = new(".hosted", ".hosted");

    /// <summary>The panel within a page of the site, whose rules say one class more.</summary>
    public static readonly StyleScope PanelWithin = new(".panel", ".wary-frame.wary-frame .panel");

    /// <summary>A page that the owner wrote, within a page of the site.</summary>
    public static readonly StyleScope HostedWithin = new(".hosted", ".wary-frame.wary-frame.hosted");
}

/// <summary>
/// The owner's own style for the panel of visitor pages, or for the pages that they wrote: CSS that is parsed, and written anew so that it reaches nothing
/// but its scope, fetches nothing, and covers nothing. What cannot be taken is told; nothing is left out in silence.
/// </summary>
public static partial class OwnStyle
{
    /// <summary>Most characters.</summary>
    public const int Longest = 20_000;

    private static readonly string[] Reaching = ["url(", "image(", "image-set(", "src(", "element(", "expression(", "cross-fade(", "paint("];
    private static readonly System.Buffers.SearchValues<char> Breaking = System.Buffers.SearchValues.Create("\"'{}[];@<\n");
    private static readonly string[] Placed = ["static", "relative", "initial", "inherit", "unset", "revert"];
    private static readonly ConditionalWeakTable<string, ConcurrentDictionary<StyleScope, string>> Written = [];

    /// <summary>The style as it stands in a page; empty where it is not one that <see cref="FaultOf"/> lets pass.</summary>
    public static string Of(string css, StyleScope scope) =>
        Written.GetValue(css, static _ => new()).GetOrAdd(scope, static (s, text) => Read(text, s, out var written) is null ? written : "", css);

    /// <summary>What is wrong with a style; null where it can be taken.</summary>
    public static Wording? FaultOf(string css, StyleScope scope) => Read(css, scope, out _);

    private static Wording? Read(string css, StyleScope scope, out string written)
    {
        written = "";
        if (css.Length > Longest)
        {
            return Wording.Of("problem.style-long", Longest);
        }

        var sheet = new CssParser(new CssParserOptions { IsIncludingUnknownDeclarations = true, IsIncludingUnknownRules = true }).ParseStyleSheet(css);
        var to = new StringBuilder();
        if (Rules(sheet.Rules, scope, to) is { } fault)
        {
            return fault;
        }

        written = to.ToString();
        // A rule that the parser passed over (a selector that is none, a rule within a rule) would be missing without a word.
        var (typed, kept) = (Quoted().Replace(css, ""), Quoted().Replace(written, ""));
        return typed.Contains('<', StringComparison.Ordinal) || written.Contains('<', StringComparison.Ordinal) ? Wording.Of("problem.style-markup")
            : typed.Count(c => c == '{') != kept.Count(c => c == '{') || (kept.Length == 0 && !string.IsNullOrWhiteSpace(typed))
            ? Wording.Of("problem.style-unread") : null;
    }

    private static Wording? Rules(ICssRuleList rules, StyleScope scope, StringBuilder to)
    {
        foreach (var rule in rules)
        {
            var fault = rule switch
            {
                ICssStyleRule style => Style(style, scope, to),
                ICssMediaRule media => Media(media, scope, to),
                _ => Wording.Of("problem.style-rule", Short(rule.CssText)),
            };
            if (fault is not null)
            {
                return fault;
            }
        }

        return null;
    }

    private static Wording? Media(ICssMediaRule media, StyleScope scope, StringBuilder to)
    {
        if (media.Media.MediaText is not { Length: > 0 } when || when.AsSpan().ContainsAny(Breaking) || when.Contains('\\', StringComparison.Ordinal))
        {
            return Wording.Of("problem.style-rule", Short(media.CssText));
        }

        to.Append("@media ").Append(when).Append('{');
        var fault = Rules(media.Rules, scope, to);
        to.Append('}');
        return fault;
    }

    private static Wording? Style(ICssStyleRule rule, StyleScope scope, StringBuilder to)
    {
        // "&" would be the panel itself, and with it what stands beside it.
        if (rule.Selector?.Text is not { Length: > 0 } whole || whole.Contains('&', StringComparison.Ordinal))
        {
            return Wording.Of("problem.style-rule", Short(rule.CssText));
        }

        foreach (var said in rule.Style)
        {
            // An escape outside of quotes may spell a function; one within them is a sign like any other.
            var (name, value) = (said.Name.ToLowerInvariant(), Closed().Replace(said.Value, "").ToLowerInvariant());
            if (!Name().IsMatch(name) || value.AsSpan().ContainsAny(Breaking) || value.Count(c => c == '(') != value.Count(c => c == ')'))
            {
                return Wording.Of("problem.style-rule", Short($"{said.Name}: {said.Value}"));
            }

            if (Array.Exists(Reaching, r => value.Contains(r, StringComparison.Ordinal)) || value.Contains('\\', StringComparison.Ordinal)
                || name is "behavior" or "-moz-binding")
            {
                return Wording.Of("problem.style-reaches", Short($"{said.Name}: {said.Value}"));
            }

            if (name == "position" && !Placed.Contains(value.Trim()))
            {
                return Wording.Of("problem.style-covers", Short($"{said.Name}: {said.Value}"));
            }
        }

        var each = Split(whole).Select(s => Scoped(s, scope)).ToList();
        var selectors = new CssSelectorParser();
        if (!each.TrueForAll(s => selectors.ParseSelector(s) is not null))
        {
            return Wording.Of("problem.style-rule", Short(rule.CssText));
        }

        to.AppendJoin(',', each).Append('{').Append(rule.Style.CssText).Append('}');
        return null;
    }

    /// <summary>The selectors of a list: what stands between its commas, but not between those within brackets or quotes.</summary>
    private static List<string> Split(string selectors)
    {
        var (all, from, depth, quote) = (new List<string>(), 0, 0, '\0');
        for (var i = 0; i < selectors.Length; i++)
        {
            var c = selectors[i];
            if (c == '\\')
            {
                i++;
            }
            else if (quote != '\0' || c is '"' or '\'')
            {
                quote = quote == '\0' ? c : quote == c ? '\0' : quote;
            }
            else if (c == ',' && depth == 0)
            {
                all.Add(selectors[from..i].Trim());
                from = i + 1;
            }
            else
            {
                depth += c is '(' or '[' ? 1 : c is ')' or ']' ? -1 : 0;
            }
        }

        all.Add(selectors[from..].Trim());
        return all;
    }

    /// <summary>As the parser writes selectors, signs of brothers stand without blanks: what begins with the scope and a blank is within it.</summary>
    private static string Scoped(string selector, StyleScope scope) =>
        selector == scope.Typed || selector.StartsWith(scope.Typed + " ", StringComparison.Ordinal)
            || selector.StartsWith(scope.Typed + ">", StringComparison.Ordinal)
            ? scope.Written + selector[scope.Typed.Length..] : $"{scope.Written} {selector}";

    private static string Short(string text) => text.Length > 80 ? text[..80] + "…" : text;

    [GeneratedRegex("^-{0,2}[a-z][a-z0-9-]*$")]
    private static partial Regex Name();

    /// <summary>Quoted text with both its quotes.</summary>
    [GeneratedRegex(@"""(\\.|[^""\\])*""|'(\\.|[^'\\])*'")]
    private static partial Regex Closed();

    /// <summary>Comments and quoted text, whose braces are none.</summary>
    [GeneratedRegex(@"/\*.*?(\*/|$)|""(\\.|[^""\\])*(""|$)|'(\\.|[^'\\])*('|$)", RegexOptions.Singleline)]
    private static partial Regex Quoted();
}
