using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Hosted;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Hosted;

/// <summary><c>wary page …</c>: pages that are written here.</summary>
internal static class PageVerbs
{
    private static readonly Argument<string> Key = new("page") { Description = "The page, such as night-shifts." };
    private static readonly Argument<FileInfo> From = new("file") { Description = "A file of Markdown." };
    private static readonly Argument<string> Words = new("words") { Description = "What is searched for." };
    private static readonly Argument<int> Number = new("number") { Description = "The version." };
    private static readonly Argument<string> Other = new("new-page") { Description = "The name of the copy." };
    private static readonly Argument<string?> Audience = new("audience")
    { Description = "Whom it admits, such as role:guide, or anyone. Left out, with --inherit: as its section.", Arity = ArgumentArity.ZeroOrOne };
    private static readonly Option<string?> Section = new("--section") { Description = "The section." };
    private static readonly Option<string?> Title = new("--title") { Description = "The title." };
    private static readonly Option<string?> About = new("--about") { Description = "What it is about, in a sentence." };
    private static readonly Option<string?> Address = new("--address") { Description = "Where it stands; beneath its section by its name where none is said." };
    private static readonly Option<int?> Position = new("--position") { Description = "Where it stands among the pages of its section, lowest first." };
    private static readonly Option<string?> At = new("--at") { Description = "From when on: a moment, or a day. Left out: at once." };
    private static readonly Option<string?> As = new("--as") { Description = "Through whose eyes: guest (usual), signed-in, role:dealer, …" };
    private static readonly Option<string?> First = new("--from") { Description = "The first version; what is served where none is said." };
    private static readonly Option<string?> Second = new("--to") { Description = "The second version; the draft where none is said." };
    private static readonly Option<bool> Inherit = new("--inherit") { Description = "No gate of its own: as its section." };

    public static Command Build()
    {
        var page = new Command("page", "Pages that are written here.");
        page.Subcommands.Add(With(new Command("list", "All pages."), [Section]).Does(async call => call.Out.Table(
            await call.Client.PagesAsync(call.Get(Section), call.Stop), "No pages. Write one: wary page write first text.md --section handbook --title First",
            ("page", p => p.Key), ("title", p => p.Title), ("stands at", p => p.Address ?? "–"), ("state", State),
            ("guarded by", p => SectionVerbs.Guarding(p.Guarding)))));
        page.Subcommands.Add(With(new Command("show", "What is written on a page."), Key).Does(async call =>
        {
            var text = await call.Client.PageTextAsync(call.Get(Key), call.Stop);
            return call.Out.Whole(text, text.Text.TrimEnd('\n'));
        }));
        page.Subcommands.Add(With(With(
            new Command("write", "Keep a text as the draft of a page; a page that is not there is made."), Key, From),
                [Section, Title, About, Address, Position])
            .Does(WriteAsync));
        page.Subcommands.Add(With(With(new Command("set", "Move a page: section, title, address, place."), Key), [Section, Title, Address, Position])
            .Does(async call => Said(call, await call.Client.SetPageAsync(
                call.Get(Key), new HostedPageDraft(call.Get(Section), call.Get(Title), call.Get(Address), call.Get(Position)), call.Stop))));
        page.Subcommands.Add(With(With(new Command("publish", "Publish what is written, at once or from a time on."), Key), [At]).Does(async call =>
            Said(call, await call.Client.PublishPageAsync(call.Get(Key), new PublishDraft(call.Get(At)), call.Stop))));
        page.Subcommands.Add(With(new Command("unpublish", "Serve nothing of a page any more; its versions stay."), Key).Does(async call =>
            Said(call, await call.Client.UnpublishPageAsync(call.Get(Key), call.Stop))));
        foreach (var verb in Histories())
        {
            page.Subcommands.Add(verb);
        }

        page.Subcommands.Add(With(With(new Command("copy", "Begin a page with the text and files of another."), Key, Other), [Title, Address])
            .Does(async call =>
        {
            var original = await call.Client.PageAsync(call.Get(Key), call.Stop);
            return Said(call, await call.Client.AddPageAsync(new HostedPageNew(
                original.Section, call.Get(Title) ?? original.Title, call.Get(Other), call.Get(Address), CopyOf: original.Key), call.Stop));
        }));
        page.Subcommands.Add(With(With(new Command("gate", "Give a page a gate of its own in place of its section's."), Key, Audience), [Inherit])
            .Does(async call =>
            {
                var audience = call.Get(Audience);
                if ((audience is null) == !call.Get(Inherit))
                {
                    throw new UsageException("Say whom it admits, or --inherit.");
                }

                var guarding = audience is null ? await call.Client.InheritPageAsync(call.Get(Key), call.Stop)
                    : await call.Client.GuardPageAsync(call.Get(Key), audience == "anyone" ? null : audience, call.Stop);
                return call.Out.Say(guarding, $"{Markup.Escape(call.Get(Key))} is guarded by: {Markup.Escape(SectionVerbs.Guarding(guarding))}.");
            }));
        page.Subcommands.Add(With(new Command("remove", "Drop a page with all its versions and files."), Key).Does(async call =>
        {
            await call.Client.RemovePageAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"The page {Markup.Escape(call.Get(Key))} is gone.");
        }));
        page.Subcommands.Add(With(With(new Command("search", "What somebody finds in the pages. Ends with 1 where it is nothing."), Words), [As])
            .Does(async call =>
            {
                var hits = await call.Client.SearchPagesAsync(call.Get(Words), call.Get(As) ?? "guest", call.Stop);
                call.Out.Table(hits, "Nothing is found.", ("page", h => h.Page), ("title", h => h.Title),
                    ("says", h => $"{h.Before} {h.Word} {h.After}".Trim()));
                return hits.Count > 0 ? Exit.Done : Exit.No;
            }));
        page.Subcommands.Add(PageFolder.Push());
        page.Subcommands.Add(PageFolder.Pull());
        return page;
    }

    private static IEnumerable<Command> Histories()
    {
        yield return With(new Command("versions", "The versions of a page, the newest first."), Key).Does(async call => call.Out.Table(
            await call.Client.PageVersionsAsync(call.Get(Key), call.Stop), "Nothing was published yet.",
            ("version", v => v.Number.ToString(CultureInfo.InvariantCulture)), ("title", v => v.Title), ("by", v => v.By), ("at", v => v.At),
            ("", v => v.Served ? "served" : "")));
        yield return With(With(new Command("diff", "What two versions differ in. Ends with 1 where they do."), Key), [First, Second]).Does(async call =>
        {
            var found = await call.Client.PageDifferenceAsync(call.Get(Key), call.Get(First), call.Get(Second), call.Stop);
            call.Out.Give(found, to =>
            {
                foreach (var line in found.Lines)
                {
                    to.MarkupLine($"{(line.Mark == "+" ? "[green]" : line.Mark == "-" ? "[red]" : "[default]")}{line.Mark} {Markup.Escape(line.Text)}[/]");
                }
            });
            return found.Lines.Any(l => l.Mark != " ") ? Exit.No : Exit.Done;
        });
        yield return With(new Command("restore", "Write what a version said, to be published again."), Key, Number).Does(async call =>
        {
            var text = await call.Client.RestorePageAsync(call.Get(Key), call.Get(Number), call.Stop);
            return call.Out.Say(text, $"The draft says what version {call.Get(Number)} said. Publish it: wary page publish {Markup.Escape(call.Get(Key))}");
        });
    }

    private static async Task<int> WriteAsync(Call call)
    {
        var (key, file) = (call.Get(Key), call.Get(From));
        if (!file.Exists)
        {
            throw new UsageException($"There is no file {file.FullName}.");
        }

        var text = await File.ReadAllTextAsync(file.FullName, call.Stop);
        var page = (await call.Client.PagesAsync(null, call.Stop)).FirstOrDefault(p => p.Key == key);
        if (page is null)
        {
            page = await call.Client.AddPageAsync(
                new HostedPageNew(call.Get(Section) ?? "", call.Get(Title) ?? key, key, call.Get(Address), call.Get(About), text), call.Stop);
        }
        else
        {
            var before = await call.Client.PageTextAsync(key, call.Stop);
            await call.Client.WritePageAsync(key, new HostedTextDraft(call.Get(Title) ?? before.Title, text, call.Get(About) ?? before.Description), call.Stop);
        }

        return call.Out.Say(page, $"The draft of [bold]{Markup.Escape(page.Title)}[/] is kept. Publish it: wary page publish {Markup.Escape(key)}");
    }

    private static string State(HostedPageView page) =>
        string.Join(", ", new[]
        {
            page.Published is { } now ? $"version {now}" : null, page.Next is { } next ? $"version {next} from {page.NextAt}" : null,
            page.Draft > 0 ? "draft" : null,
        }.OfType<string>().DefaultIfEmpty("nothing"));

    private static int Said(Call call, HostedPageView page) => call.Out.Say(
        page, $"[bold]{Markup.Escape(page.Title)}[/] at {Markup.Escape(page.Address ?? "–")}: {Markup.Escape(State(page))}; "
            + $"{Markup.Escape(SectionVerbs.Guarding(page.Guarding))}.");
}
