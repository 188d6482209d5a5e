using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Hosted;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Hosted;

/// <summary><c>wary section list|set|remove</c>: sections of pages that are written here.</summary>
internal static class SectionVerbs
{
    private static readonly Argument<string> Key = new("section") { Description = "The section, such as handbook." };
    private static readonly Option<string?> Title = new("--title") { Description = "Its title." };
    private static readonly Option<string?> Address = new("--address") { Description = "Where its pages stand, such as /handbook." };
    private static readonly Option<string?> About = new("--about") { Description = "What it is about, in a sentence." };
    private static readonly Option<string?> Layout = new("--layout") { Description = "plain, side, or own (with --template)." };
    private static readonly Option<FileInfo?> Template = new("--template") { Description = "A file with the layout of its pages (Liquid)." };
    private static readonly Option<bool?> InSite = new("--in-site") { Description = "Whether its pages stand in the site's own frame." };
    private static readonly Option<string?> Parent = new("--beneath") { Description = "The item that it stands beneath." };

    public static Command Build()
    {
        var section = new Command("section", "Sections of pages that are written here.");
        section.Subcommands.Add(new Command("list", "All sections.").Does(async call => call.Out.Table(
            await call.Client.SectionsAsync(call.Stop), "No sections. Make one: wary section set handbook --title Handbook --address /handbook",
            ("section", s => s.Key), ("title", s => s.Title), ("stands at", s => s.Address ?? "–"),
            ("pages", s => s.Pages.ToString(CultureInfo.InvariantCulture)), ("layout", s => s.Layout), ("guarded by", s => Guarding(s.Guarding)))));
        section.Subcommands.Add(With(With(new Command("set", "Make a section, or change one."), Key), [Title, Address, About, Layout, Template, InSite, Parent])
            .Does(async call =>
            {
                var key = call.Get(Key);
                var now = (await call.Client.SectionsAsync(call.Stop)).FirstOrDefault(s => s.Key == key);
                var template = call.Get(Template) is { } file ? await File.ReadAllTextAsync(file.FullName, call.Stop) : null;
                var set = await call.Client.PutSectionAsync(
                    key, new HostedSectionDraft(
                        call.Get(Title) ?? now?.Title ?? "", call.Get(Address) ?? now?.Address ?? "", call.Get(About) ?? now?.Description,
                        call.Get(Layout) ?? (template is null ? now?.Layout : "own"), template ?? now?.Template, call.Get(InSite) ?? now?.InSite,
                        call.Get(Parent) ?? now?.Parent),
                    call.Stop);
                return call.Out.Say(
                    set, $"[bold]{Markup.Escape(set.Title)}[/] stands at {Markup.Escape(set.Address ?? "")}; {Markup.Escape(Guarding(set.Guarding))}.");
            }));
        section.Subcommands.Add(With(new Command("remove", "Drop a section that has no pages."), Key).Does(async call =>
        {
            await call.Client.RemoveSectionAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"The section {Markup.Escape(call.Get(Key))} is gone.");
        }));
        return section;
    }

    /// <summary>What guards something, in a few words.</summary>
    public static string Guarding(GuardingView guarding) => guarding.Kind switch
    {
        "open" => "open to everybody, whatever stands above",
        "own" => "its own: " + guarding.Own,
        _ when guarding.By.Count == 0 => "open to everybody",
        _ => string.Join("; ", guarding.By.Select(b => $"{b.Admits} (from {b.From})")),
    };
}
