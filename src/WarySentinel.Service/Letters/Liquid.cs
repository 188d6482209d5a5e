using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Encodings.Web;
using Fluid;
using Fluid.Values;
using WarySentinel.Core;

namespace WarySentinel.Service.Letters;

/// <summary>A template that does not come to an end, or makes more than a letter may hold.</summary>
public sealed class EndlessTemplateException() : Exception("The template makes too much.");

/// <summary>
/// Liquid as letters know it: the listed names and a short list of filters, no files, no other templates, and an end to every loop. What is put into HTML
/// is encoded, whatever filters it went through.
/// </summary>
public static class Liquid
{
    /// <summary>Longest outcome of a template, in characters.</summary>
    public const int Longest = 200_000;

    private const int MostSteps = 20_000;

    // None that makes a list: lists go into HTML as they are, so that a name could bring markup along.
    private static readonly string[] Kept =
    [
        "abs", "append", "at_least", "at_most", "capitalize", "ceil", "date", "default", "divided_by", "downcase", "escape", "floor", "lstrip", "minus",
        "modulo", "newline_to_br", "plus", "prepend", "remove", "remove_first", "replace", "replace_first", "round", "rstrip", "size", "slice", "strip",
        "strip_newlines", "times", "truncate", "truncatewords", "upcase", "url_encode",
    ];

    private static readonly FluidParser Parser = new();
    private static readonly ConditionalWeakTable<string, IFluidTemplate> Parsed = [];

    /// <summary>What templates are run by.</summary>
    internal static readonly TemplateOptions Options = Make();

    /// <summary>Parses a template; null, and what the parser says, where it is none.</summary>
    public static IFluidTemplate? TryParse(string source, out string? error) => Parser.TryParse(source, out var parsed, out error) ? parsed : null;

    /// <summary>The filters that there are.</summary>
    public static IReadOnlyList<string> Filters => Kept;

    /// <summary>Whether there is a filter of that name.</summary>
    public static bool HasFilter(string name) => Kept.Contains(name);

    /// <summary>
    /// What becomes of a template. Throws <see cref="EndlessTemplateException"/> where it would not end, and <see cref="FormatException"/> where it is none.
    /// </summary>
    /// <param name="source">The template.</param>
    /// <param name="values">The names that it knows; dots lead inside.</param>
    /// <param name="html">Whether it becomes HTML, so that values are encoded.</param>
    public static string Render(string source, IReadOnlyDictionary<string, string?> values, bool html)
    {
        var template = Parsed.GetValue(source, static text => TryParse(text, out var error) ?? throw new FormatException(error));
        var context = new TemplateContext(Options) { MaxSteps = MostSteps };
        foreach (var group in values.GroupBy(v => v.Key.Split('.')[0]))
        {
            context.SetValue(group.Key, ValueOf(group.Key, group.ToList()));
        }

        return Run(template, context, html);
    }

    /// <summary>What becomes of a template of a page: HTML. Throws as <see cref="Render(string, IReadOnlyDictionary{string, string?}, bool)"/> does.</summary>
    /// <param name="source">The template.</param>
    /// <param name="values">The names that it knows.</param>
    public static string Render(string source, IReadOnlyDictionary<string, FluidValue> values)
    {
        var template = Parsed.GetValue(source, static text => TryParse(text, out var error) ?? throw new FormatException(error));
        var context = new TemplateContext(Options) { MaxSteps = MostSteps };
        foreach (var (name, value) in values)
        {
            context.SetValue(name, value);
        }

        return Run(template, context, true);
    }

    private static string Run(IFluidTemplate template, TemplateContext context, bool html)
    {
        using var text = new Bounded();
        try
        {
            // Nothing in it waits: there are no files and no filters that do.
            template.RenderAsync(text, html ? HtmlEncoder.Default : NullEncoder.Default, context).AsTask().GetAwaiter().GetResult();
        }
        catch (InvalidOperationException) when (text.IsShort)
        {
            // How the library says that a loop took too many steps.
            throw new EndlessTemplateException();
        }

        return text.ToString();
    }

    private static FluidValue ValueOf(string name, List<KeyValuePair<string, string?>> entries) => entries is [{ Key: var only, Value: var value }]
        && only == name
        ? value is null ? NilValue.Instance : new StringValue(value)
        : new DictionaryValue(new FluidValueDictionaryFluidIndexable(
            entries.ToDictionary(e => e.Key[(name.Length + 1)..], e => e.Value is null ? (FluidValue)NilValue.Instance : new StringValue(e.Value))));

    private static TemplateOptions Make()
    {
        var options = new TemplateOptions { MaxSteps = MostSteps, MaxRecursion = 20, CultureInfo = CultureInfo.InvariantCulture };
        foreach (var name in options.Filters.Select(f => f.Key).Except(Kept).ToList())
        {
            options.Filters.Remove(name);
        }

        foreach (var name in new[] { "append", "prepend", "replace", "replace_first" })
        {
            options.Filters.TryGetValue(name, out var plain);
            options.Filters.AddFilter(name, (input, arguments, context) => Weigh(input, arguments) > Longest ? throw new EndlessTemplateException()
                : plain!(input, arguments, context));
        }

        options.Filters.AddFilter("newline_to_br", static (input, _, _) => new StringValue(
            HtmlEncoder.Default.Encode(input.ToStringValue().ReplaceLineEndings("\n")).Replace("&#xA;", "<br>\n", StringComparison.Ordinal), false));
        options.Assigned = static (_, value, _) => value.ToStringValue().Length > Longest ? throw new EndlessTemplateException()
            : new ValueTask<FluidValue>(value);
        return options;
    }

    /// <summary>How long the outcome of a filter can be at most, in characters.</summary>
    private static long Weigh(FluidValue input, FilterArguments arguments)
    {
        long length = input.ToStringValue().Length;
        var factor = Enumerable.Range(0, arguments.Count).Select(i => (long)arguments.At(i).ToStringValue().Length).DefaultIfEmpty(0).Max();
        return arguments.Count > 1 ? (length + 1) * (factor + 1) : length + factor;
    }

    /// <summary>Text up to a bound.</summary>
    private sealed class Bounded : StringWriter
    {
        public bool IsShort => GetStringBuilder().Length <= Longest;

        public override void Write(char value) => Check(1).Append(value);

        public override void Write(string? value) => Check(value?.Length ?? 0).Append(value);

        public override void Write(char[] buffer, int index, int count) => Check(count).Append(buffer, index, count);

        public override void Write(ReadOnlySpan<char> buffer) => Check(buffer.Length).Append(buffer);

        private StringBuilder Check(int more) =>
            GetStringBuilder().Length + more > Longest ? throw new EndlessTemplateException() : GetStringBuilder();
    }
}
