using System.Reflection;
using AngleSharp.Html.Parser;
using Fluid;
using Fluid.Values;
using WarySentinel.Core;
using WarySentinel.Core.Hosted;
using WarySentinel.Service.Letters;

namespace WarySentinel.Service.Hosted;

/// <summary>The layouts of hosted pages: ours, and what is wrong with one of the owner's.</summary>
public static class HostedLayouts
{
    private static readonly string[] Known =
    [
        "site.name", "site.home", "site.logo", "site.links", "site.account", "section.title", "section.description", "section.address", "section.pages",
        "page.title", "page.description", "page.address", "words.account", "words.search", "content", "languages", "search",
    ];

    private static readonly string[] Texts = ["site.name", "site.home", "site.account", "section.title", "section.address", "page.title", "page.address"];
    private static readonly Dictionary<string, string> Ours = new[] { "plain", "side", "plain-within", "side-within" }.ToDictionary(n => n, Read);

    /// <summary>Elements that a page of ours has no use for, and that would reach beyond it.</summary>
    private static readonly string[] Closed =
        ["script", "iframe", "object", "embed", "base", "meta", "frame", "frameset", "applet", "portal", "link", "style", "noscript", "template"];

    /// <summary>The template of a section's pages.</summary>
    public static string Of(HostedSection section) => section is { Layout: "own", Template: { } own } ? own : Named(section.Layout);

    /// <summary>The template of its pages where they stand within one of the site: ours without header and foot.</summary>
    public static string WithinSite(HostedSection section) => section is { Layout: "own", Template: { } own } ? own : Named(section.Layout + "-within");

    /// <summary>One of ours; that with a column at the side where there is none of that name.</summary>
    public static string Named(string name) => Ours.GetValueOrDefault(name) ?? Ours["side"];

    /// <summary>What is wrong with a template; nothing where it is good.</summary>
    public static Problem? Fault(string? template)
    {
        if (string.IsNullOrEmpty(template))
        {
            return null;
        }

        var faults = new Faults();
        if (LiquidCheck.IsRead("template", template, name => Known.Contains(name), Known, faults))
        {
            Look(template, faults);
            Try(template, faults);
        }

        return faults.Any ? faults.ToProblem("page-invalid") : null;
    }

    private static void Look(string template, Faults faults)
    {
        using var document = new HtmlParser().ParseDocument(template);
        foreach (var name in document.All.Select(e => e.LocalName).Where(Closed.Contains).Distinct())
        {
            // The parser makes some of its own.
            faults.Unless(!template.Contains("<" + name, StringComparison.OrdinalIgnoreCase), "template", "page-template-element", name);
        }

        foreach (var name in document.All.SelectMany(e => e.Attributes).Select(a => a.Name).Where(n => n.StartsWith("on", StringComparison.OrdinalIgnoreCase)))
        {
            faults.Bad("template", "page-template-attribute", name);
        }
    }

    private static void Try(string template, Faults faults)
    {
        const string content = "<!--content-->";
        try
        {
            var values = Texts.GroupBy(t => t.Split('.')[0]).ToDictionary(
                g => g.Key, g => (FluidValue)new DictionaryValue(new FluidValueDictionaryFluidIndexable(
                    g.ToDictionary(t => t.Split('.')[1], t => (FluidValue)new StringValue(t)))));
            values["content"] = new StringValue(content, false);
            faults.Unless(Liquid.Render(template, values).Contains(content, StringComparison.Ordinal), "template", "page-template-content");
        }
        catch (EndlessTemplateException)
        {
            faults.Bad("template", "template-long", Liquid.Longest);
        }
        catch (Exception fault) when (fault is ParseException or FormatException or ArgumentException or InvalidCastException or OverflowException
            or DivideByZeroException or InvalidOperationException)
        {
            faults.BadAt("template", "template-syntax", 1, 1, fault.Message);
        }
    }

    private static string Read(string name)
    {
        using var stream = Assembly.GetExecutingAssembly().GetManifestResourceStream($"WarySentinel.Service.Layouts.{name}.liquid")!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}
