using System.CommandLine;
using Spectre.Console;
using WarySentinel.Contract.Pages;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Pages;

/// <summary><c>wary visitor-page list|set|reset</c>: where the service's own pages stand, and whether they do.</summary>
internal static class VisitorPageVerbs
{
    private static readonly Argument<string> Key = new("page") { Description = "The page, such as sign-in." };
    private static readonly Option<string?> Address = new("--address") { Description = "An address of its own on the site; empty for the usual one." };
    private static readonly Option<bool?> On = new("--on") { Description = "Whether the site has it: --on false does without." };
    private static readonly Option<bool?> Menu = new("--menu") { Description = "Whether it stands in the site's menu." };

    public static Command Build()
    {
        var page = new Command("visitor-page", "The service's own pages for visitors: where they stand, and whether they do.");
        page.Subcommands.Add(new Command("list", "All pages.").Does(async call => call.Out.Table(
            await call.Client.VisitorPagesAsync(call.Stop), "None.", ("page", p => p.Key), ("title", p => p.Title), ("for", p => p.Use),
            ("stands at", p => p.Off ? "off" : p.Stands ?? "where it is needed"), ("menu", p => p.Menu == true ? "yes" : p.Menu is null ? "–" : "no"))));
        page.Subcommands.Add(With(With(new Command("set", "Move a page, do without it, or put it into the menu."), Key), [Address, On, Menu])
            .Does(async call =>
            {
                var key = call.Get(Key);
                var now = (await call.Client.VisitorPagesAsync(call.Stop)).FirstOrDefault(p => p.Key == key);
                var draft = new VisitorPageDraft(
                    call.Get(Address) ?? now?.Address, call.Get(On) is { } on ? !on : now?.Off, call.Get(Menu) ?? (now is { Menu: true } ? true : now?.Menu));
                return Said(call, await call.Client.SetVisitorPageAsync(key, draft, call.Stop));
            }));
        page.Subcommands.Add(With(new Command("reset", "Have a page as usual."), Key).Does(async call =>
            Said(call, await call.Client.SetVisitorPageAsync(call.Get(Key), new VisitorPageDraft(), call.Stop))));
        return page;
    }

    private static int Said(Call call, VisitorPageView page) => call.Out.Say(
        page, page.Off ? $"The site does without [bold]{Markup.Escape(page.Title)}[/]."
            : $"[bold]{Markup.Escape(page.Title)}[/] stands at {Markup.Escape(page.Stands ?? "")}{(page.Menu == true ? ", and in the menu" : "")}.");
}
