using System.CommandLine;
using Spectre.Console;
using WarySentinel.Contract.Hosted;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Hosted;

/// <summary>
/// <c>wary page push|pull</c>: sections and pages as files in a folder, such as a Git repository. A folder for each section with its <c>section.yaml</c>, a
/// <c>.md</c> for each page, and its files in a folder of its name.
/// </summary>
internal static class PageFolder
{
    private static readonly Argument<DirectoryInfo> Folder = new("folder") { Description = "The folder." };
    private static readonly Option<bool> Yes = new("--yes") { Description = "Store without asking." };
    private static readonly Option<bool> DryRun = new("--dry-run") { Description = "Only show what would change. Ends with 1 where something would." };
    private static readonly Option<bool> Force = new("--force") { Description = "Write over what was changed on the other side as well." };
    private static readonly Option<bool> Prune = new("--prune") { Description = "Remove what the folder does not have, of the sections that it has." };

    public static Command Push() => With(With(new Command(
        "push", "Have the service say what a folder says: shows the difference, asks, and publishes."), Folder), Yes, DryRun, Force, Prune).Does(PushAsync);

    public static Command Pull() => With(With(new Command(
        "pull", "Write what the service says into a folder, but for what was changed there."), Folder), DryRun, Force).Does(PullAsync);

    private static async Task<int> PushAsync(Call call)
    {
        var folder = call.Get(Folder);
        if (!folder.Exists)
        {
            throw new UsageException($"There is no folder {folder.FullName}.");
        }

        var local = LocalPages.Read(folder);
        var there = await RemotePages.ReadAsync(call);
        var plan = PushPlan.Of(local, there, call.Get(Force), call.Get(Prune));
        if (plan.Steps.Any(s => s.Mark == '!'))
        {
            Show(call, plan.Steps);
            await Console.Error.WriteLineAsync(
                "wary: what is marked with ! was changed on the service as well. Pull first, or say --force. Nothing is stored.");
            return Exit.Conflict;
        }

        var changes = plan.Steps.Where(s => s.Does is not null).ToList();
        if (changes.Count == 0)
        {
            local.Remember(there);
            return call.Out.Say(Views(plan.Steps), "The service says what the folder says.");
        }

        if (call.Get(DryRun))
        {
            Show(call, plan.Steps);
            return Exit.No;
        }

        if (!await Asking.AgreesAsync(call, call.Get(Yes), Views(plan.Steps), to => Print(to, plan.Steps)))
        {
            return Exit.No;
        }

        foreach (var step in changes)
        {
            await step.Does!(call);
        }

        local.Remember(await RemotePages.ReadAsync(call));
        return call.Out.Say(Views(changes), $"{changes.Count} {(changes.Count == 1 ? "change is" : "changes are")} on the service.");
    }

    private static async Task<int> PullAsync(Call call)
    {
        var folder = call.Get(Folder);
        folder.Create();
        var local = LocalPages.Read(folder);
        var there = await RemotePages.ReadAsync(call);
        var steps = await PullPlan.OfAsync(call, local, there, call.Get(Force));
        if (steps.Any(s => s.Mark == '!'))
        {
            Show(call, steps);
            await Console.Error.WriteLineAsync(
                "wary: what is marked with ! was changed in the folder as well. Push it first, or say --force. Nothing is written.");
            return Exit.Conflict;
        }

        if (call.Get(DryRun))
        {
            Show(call, steps);
            return steps.Count > 0 ? Exit.No : Exit.Done;
        }

        foreach (var step in steps)
        {
            await step.Does!(call);
        }

        LocalPages.Read(folder).Remember(there);
        return steps.Count == 0 ? call.Out.Say(Views(steps), "The folder says what the service says.") : Show(call, steps);
    }

    private static int Show(Call call, IReadOnlyList<FolderStep> steps) => call.Out.Give(Views(steps), to => Print(to, steps));

    private static void Print(IAnsiConsole to, IReadOnlyList<FolderStep> steps)
    {
        foreach (var step in steps)
        {
            to.MarkupLine($"{(step.Mark is '+' ? "[green]" : step.Mark is '-' or '!' ? "[red]" : "[default]")}{step.Mark}[/] {Markup.Escape(step.What)}");
        }
    }

    private static List<FolderLine> Views(IEnumerable<FolderStep> steps) => [.. steps.Select(s => new FolderLine(s.Mark.ToString(), s.What))];

    private sealed record FolderLine(string Mark, string What);
}

/// <summary>Something that is to be done: <c>+</c> new, <c>~</c> changed, <c>-</c> gone, <c>!</c> changed on both sides, <c>=</c> left alone.</summary>
/// <param name="Mark">The mark.</param>
/// <param name="What">What.</param>
/// <param name="Does">Does it; null where there is nothing to do.</param>
internal sealed record FolderStep(char Mark, string What, Func<Call, Task>? Does);

/// <summary>What the service has.</summary>
/// <param name="Sections">Its sections.</param>
/// <param name="Pages">Its pages, as files.</param>
internal sealed record RemotePages(IReadOnlyList<SectionView> Sections, IReadOnlyList<RemotePage> Pages)
{
    public static async Task<RemotePages> ReadAsync(Call call)
    {
        var (sections, pages) = (await call.Client.SectionsAsync(call.Stop), new List<RemotePage>());
        foreach (var view in await call.Client.PagesAsync(null, call.Stop))
        {
            var files = await call.Client.PageFilesAsync(view.Key, call.Stop);
            if (files.Select(f => f.Name).Append(view.Key).Append(view.Section).FirstOrDefault(n => n != Path.GetFileName(n) || n is "" or "." or "..")
                is { } odd)
            {
                throw new UsageException($"The service has something called “{odd}”, which is no name of a file.");
            }

            var section = sections.FirstOrDefault(s => s.Key == view.Section);
            var text = await call.Client.PageTextAsync(view.Key, call.Stop);
            var usual = section?.Address is { } at && view.Address == $"{at}/{view.Key}";
            pages.Add(new RemotePage(view, new PageFile(
                text.Title, text.Description, usual ? null : view.Address, view.Position,
                view.Guarding.Kind switch { "open" => "anyone", "own" => view.Guarding.Own, _ => null }, view.Published is null && view.Next is null
                    || text.Source == "draft",
                text.Text.TrimEnd('\n') + "\n"), files));
        }

        return new RemotePages(sections, pages);
    }
}

/// <summary>A page on the service.</summary>
/// <param name="View">What is set of it.</param>
/// <param name="File">The same as a file.</param>
/// <param name="Files">Its files.</param>
internal sealed record RemotePage(HostedPageView View, PageFile File, IReadOnlyList<PageFileView> Files)
{
    /// <summary>It as a file that says nothing of its place would have it.</summary>
    public PageFile Like(PageFile local) => local.Position is null ? File with { Position = null } : File;
}
