using System.Globalization;
using System.Text.RegularExpressions;
using Fluid;
using Fluid.Ast;
using WarySentinel.Core;
using WarySentinel.Core.Letters;

namespace WarySentinel.Service.Letters;

/// <summary>Tells what is wrong with a template, with the line and column of it, before it is stored.</summary>
public static partial class LiquidCheck
{
    private const int LongestRange = 1000;

    /// <summary>Notes every fault of a template: what cannot be parsed, names that the letter does not know, and what it has to say and does not.</summary>
    public static void Check(LetterKind kind, LetterTemplate template, Faults faults)
    {
        foreach (var (field, source) in new[] { ("subject", template.Subject), ("html", template.Html), ("text", template.Text) })
        {
            if (source is not null)
            {
                Check(kind, field, source, faults);
            }
        }
    }

    private static void Check(LetterKind kind, string field, string source, Faults faults)
    {
        if (IsRead(field, source, kind.Knows, [.. kind.Variables.Select(v => v.Name)], faults))
        {
            Try(kind, field, source, faults);
        }
    }

    /// <summary>Whether a template can be parsed, and uses nothing but what it knows; every fault with its line and column.</summary>
    /// <param name="field">Where the template stands.</param>
    /// <param name="source">The template.</param>
    /// <param name="knows">Whether it knows a name.</param>
    /// <param name="names">The names to offer.</param>
    /// <param name="faults">Takes the faults.</param>
    public static bool IsRead(string field, string source, Func<string, bool> knows, IReadOnlyList<string> names, Faults faults)
    {
        var parsed = Liquid.TryParse(source, out var error);
        if (parsed is null)
        {
            var place = Place().Match(error ?? "");
            faults.BadAt(
                field, "template-syntax", place.Success ? Number(place, 1) : 1, place.Success ? Number(place, 2) : 1,
                (error ?? "").Split('\n')[0].Replace(place.Value, "", StringComparison.Ordinal).Trim());
            return false;
        }

        var seen = new Reading(knows);
        seen.VisitTemplate(parsed);
        foreach (var (code, name) in seen.Odd.Distinct())
        {
            var (line, column) = Where(source, name);
            faults.BadAt(field, code, line, column, name, code == "template-variable" ? Nearest.To(name, names) ?? names[0] : null);
        }

        return seen.Odd.Count == 0;
    }

    private static void Try(LetterKind kind, string field, string source, Faults faults)
    {
        try
        {
            var made = Liquid.Render(source, kind.Variables.ToDictionary(v => v.Name, v => (string?)v.Sample), false);
            foreach (var missing in kind.Needed.Where(v => field != "subject" && !made.Contains(v.Sample.Split('\n')[0], StringComparison.Ordinal)))
            {
                faults.Bad(field, "template-link", missing.Name);
            }
        }
        catch (EndlessTemplateException)
        {
            faults.Bad(field, "template-long", Liquid.Longest);
        }
        catch (Exception fault) when (fault is FluidException or ParseException or FormatException or ArgumentException or InvalidCastException
            or OverflowException
            or DivideByZeroException or InvalidOperationException or NotSupportedException)
        {
            faults.BadAt(field, "template-syntax", 1, 1, fault.Message.Split('\n')[0]);
        }
    }

    /// <summary>Where a name first stands between braces; both count from 1.</summary>
    private static (int Line, int Column) Where(string source, string name)
    {
        var word = new Regex($@"(?<![\w.]){Regex.Escape(name)}(?![\w])", RegexOptions.None, TimeSpan.FromSeconds(1));
        var at = Braces().Matches(source).Select(b => word.Match(b.Value) is { Success: true } found ? b.Index + found.Index : -1)
            .FirstOrDefault(i => i >= 0, 0);
        var before = source[..at];
        return (before.Count(c => c == '\n') + 1, at - (before.LastIndexOf('\n') + 1) + 1);
    }

    private static int Number(Match place, int group) => int.Parse(place.Groups[group].Value, CultureInfo.InvariantCulture);

    [GeneratedRegex(@"\s*at \((\d+):(\d+)\)")]
    private static partial Regex Place();

    [GeneratedRegex(@"\{[{%].*?[}%]\}", RegexOptions.Singleline)]
    private static partial Regex Braces();

    /// <summary>Reads a template for what there is not.</summary>
    private sealed class Reading(Func<string, bool> knows) : AstVisitor
    {
        private static readonly string[] OfLoops = ["forloop", "tablerowloop"];
        private static readonly string[] OfTexts = ["size", "first", "last", "length"];
        private readonly HashSet<string> locals = [.. OfLoops];

        public List<(string Code, string Name)> Odd { get; } = [];

        protected override Expression VisitMemberExpression(MemberExpression memberExpression)
        {
            var names = memberExpression.Segments.Select(s => (s as IdentifierSegment)?.Identifier ?? "[]").ToList();
            if (names.Count > 1 && OfTexts.Contains(names[^1]))
            {
                names.RemoveAt(names.Count - 1);
            }

            var name = string.Join('.', names);
            if (!knows(name) && !locals.Contains(names[0]))
            {
                Odd.Add(("template-variable", name));
            }

            return base.VisitMemberExpression(memberExpression);
        }

        protected override Expression VisitFilterExpression(FilterExpression filterExpression)
        {
            if (!Liquid.HasFilter(filterExpression.Name))
            {
                Odd.Add(("template-filter", filterExpression.Name));
            }

            return base.VisitFilterExpression(filterExpression);
        }

        protected override Expression VisitRangeExpression(RangeExpression rangeExpression)
        {
            if (rangeExpression.From is not LiteralExpression from || rangeExpression.To is not LiteralExpression to
                || Math.Abs(to.Value.ToNumberValue() - from.Value.ToNumberValue()) > LongestRange)
            {
                Odd.Add(("template-tag", ".."));
            }

            return base.VisitRangeExpression(rangeExpression);
        }

        protected override Statement VisitAssignStatement(AssignStatement assignStatement)
        {
            var visited = base.VisitAssignStatement(assignStatement);
            locals.Add(assignStatement.Identifier);
            return visited;
        }

        protected override Statement VisitCaptureStatement(CaptureStatement captureStatement)
        {
            var visited = base.VisitCaptureStatement(captureStatement);
            locals.Add(captureStatement.Identifier);
            return visited;
        }

        protected override Statement VisitForStatement(ForStatement forStatement)
        {
            locals.Add(forStatement.Identifier);
            return base.VisitForStatement(forStatement);
        }

        protected override Statement VisitIncludeStatement(IncludeStatement includeStatement) => No("include", includeStatement);

        protected override Statement VisitRenderStatement(RenderStatement renderStatement) => No("render", renderStatement);

        protected override Statement VisitMacroStatement(MacroStatement macroStatement) => No("macro", macroStatement);

        protected override Statement VisitFromStatement(FromStatement fromStatement) => No("from", fromStatement);

        protected override Statement VisitTableRowStatement(TableRowStatement tableRowStatement) => No("tablerow", tableRowStatement);

        private Statement No(string tag, Statement statement)
        {
            Odd.Add(("template-tag", tag));
            return statement;
        }
    }
}
