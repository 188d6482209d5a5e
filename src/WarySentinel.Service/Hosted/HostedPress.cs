using System.Text;
using Fluid.Values;
using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Components.Web;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Service.Letters;
using WarySentinel.Service.Pages;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Hosted;

/// <summary>Makes whole pages: what they say, in the layout of their section, in our frame.</summary>
internal sealed class HostedPress(IServiceProvider services, ILoggerFactory logs, Refusals refusals, ServiceOptions options)
{
    private const string Content = "<!--wary-content-->";
    private readonly ILogger log = logs.CreateLogger<HostedPress>();

    /// <summary>The page, in the language that is spoken. It is the same for everybody with the same answers until it is filtered.</summary>
    public async Task<MadePage> MakeAsync(HostedSheet sheet, string? preview = null, bool within = false)
    {
        var frame = refusals.Frame();
        var text = new HostedText(sheet, options, preview);
        var (content, languages) = (text.Html(), await StringOfAsync<TongueChoice>(new() { ["Frame"] = frame }));
        var values = Values(sheet, frame, text.Search(), languages);
        var body = Laid(sheet, values, within).Replace(Content, content, StringComparison.Ordinal);
        if (within)
        {
            var look = frame.Settings.Look;
            var framed = $"<div class=\"wary-frame hosted\" data-theme=\"{look.Theme.ToString().ToLowerInvariant()}\" "
                + $"data-type=\"{look.Type.ToString().ToLowerInvariant()}\" lang=\"{frame.Language}\" dir=\"{frame.Direction}\">{body}</div>";
            return new MadePage(Encoding.UTF8.GetBytes(framed), text.Files, text.HasFacts);
        }

        var html = await StringOfAsync<HostedFrame>(new()
        {
            ["Frame"] = frame, ["Title"] = sheet.Title, ["Body"] = body, ["Description"] = sheet.Description ?? HostedSheet.AboutOf(sheet.Section),
            // What anybody may open may be found by anybody.
            ["Index"] = sheet.Page is { } page && preview is null && sheet.Policy.Allows(Visitor.Guest, page.Id, Acts.Open, sheet.Now),
        });
        return new MadePage(Encoding.UTF8.GetBytes(html), text.Files, text.HasFacts);
    }

    /// <summary>A template is tried before it is stored; should it fail all the same, the page is laid out as ours are.</summary>
    private string Laid(HostedSheet sheet, Dictionary<string, FluidValue> values, bool within)
    {
        try
        {
            return Liquid.Render(within ? HostedLayouts.WithinSite(sheet.Section) : HostedLayouts.Of(sheet.Section), values);
        }
        catch (Exception fault) when (fault is EndlessTemplateException or FormatException or ArgumentException or InvalidCastException or OverflowException
            or DivideByZeroException or InvalidOperationException)
        {
            log.LogError("The layout of the section {Section} failed ({Reason}); its pages are laid out as usual", sheet.Section.Key, fault.Message);
            return Liquid.Render(HostedLayouts.Named(within ? "side-within" : "side"), values);
        }
    }

    private static Dictionary<string, FluidValue> Values(HostedSheet sheet, PageFrame frame, string search, string languages) => new()
    {
        ["site"] = Of(
            ("name", frame.Settings.SiteName), ("home", "/"), ("logo", frame.Settings.Look.Logo), ("account", AccountOf(frame)),
            ("links", new ArrayValue([.. frame.Settings.Look.Links.Select(l => Of(("address", l.Address), ("words", l.Words)))]))),
        ["section"] = Of(
            ("title", sheet.SectionTitle), ("description", HostedSheet.AboutOf(sheet.Section)), ("address", sheet.SectionAddress),
            ("pages", new ArrayValue([.. sheet.Pages().Select(p => Of(
                ("title", HostedSheet.TitleOf(p.Page, p.Edition)), ("description", HostedSheet.AboutOf(p.Page, p.Edition)), ("address", p.Address),
                ("here", BooleanValue.Create(p.Page.Key == sheet.Page?.Key))))]))),
        ["page"] = Of(("title", sheet.Title), ("description", sheet.Description), ("address", sheet.Address)),
        ["words"] = Of(("account", PageWords.Of("account.title")), ("search", PageWords.Of("search.label"))),
        ["content"] = new StringValue(Content, false),
        ["search"] = new StringValue(search, false),
        ["languages"] = new StringValue(languages, false),
    };

    /// <summary>Where one's own account stands; nothing where the owner has put a link there already.</summary>
    private static string? AccountOf(PageFrame frame) => frame.To("/") is var account
        && frame.Settings.Look.Links.Any(l => l.Address.TrimEnd('/') == account.TrimEnd('/')) ? null : account;

    private static DictionaryValue Of(params (string Name, object? Value)[] values) => new DictionaryValue(new FluidValueDictionaryFluidIndexable(
        values.ToDictionary(v => v.Name, v => v.Value switch
        {
            null => NilValue.Instance,
            FluidValue made => made,
            var text => new StringValue((string)text),
        })));

    private async Task<string> StringOfAsync<TComponent>(Dictionary<string, object?> parameters)
        where TComponent : IComponent
    {
        await using var renderer = new HtmlRenderer(services, logs);
        return await renderer.Dispatcher.InvokeAsync(
            async () => (await renderer.RenderComponentAsync<TComponent>(ParameterView.FromDictionary(parameters))).ToHtmlString());
    }
}
