using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract;
using WarySentinel.Contract.SetUp;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.SetUp;

/// <summary><c>wary setup</c>: from an empty store to a guarded site in one step, by questions or by a file of answers; ends by trying it.</summary>
internal static class SetUpVerbs
{
    private static readonly Option<FileInfo?> Answers = new("--answers") { Description = "A YAML file with the answers; nothing is asked then." };
    private static readonly Option<bool> Yes = new("--yes") { Description = "Store without asking." };
    private static readonly Option<bool> OnlyCheck = new("--check") { Description = "Change nothing; only try the site." };
    private static readonly Option<bool> Letter = new("--letter")
    {
        Description = "Send a letter to whoever is told what needs a hand, to see whether it arrives: it has when somebody follows its link.",
    };

    public static Command Build() => With(new Command(
        "setup", "Set the site up in one step: asks what it is, makes and wires everything, and tries it. Said again, it changes nothing. Ends with 1 where "
            + "something is wrong."),
        Answers, Yes, OnlyCheck, Letter).Does(RunAsync);

    private static async Task<int> RunAsync(Call call)
    {
        var (file, only) = (call.Get(Answers), call.Get(OnlyCheck));
        if (file is { Exists: false })
        {
            throw new UsageException($"There is no file {file.FullName}.");
        }

        if (file is null && Console.IsInputRedirected && !only)
        {
            throw new UsageException("Nobody is there to ask. Write the answers into a file: wary setup --answers site-answers.yaml");
        }

        var changed = 0;
        if (!only)
        {
            var there = await call.Client.SetUpAsync(call.Stop);
            var answers = file is not null ? SetUpAnswers.Read(file.FullName, await File.ReadAllTextAsync(file.FullName, call.Stop))
                : SetUpAnswers.Ask(there, await call.Client.FoundSiteAsync(call.Stop));
            if (await MakeAsync(call, answers) is not { } made)
            {
                return Exit.No;
            }

            changed = made;
        }

        if (call.Get(Letter))
        {
            await call.Client.SendSetUpLetterAsync(null, call.Stop);
        }

        return await TryAsync(call, changed);
    }

    /// <summary>Makes and wires everything; how many things were changed, or null where the owner does not want it.</summary>
    private static async Task<int?> MakeAsync(Call call, SetUpAnswers answers)
    {
        try
        {
            var seen = await call.Client.MakeSetUpAsync(answers.Draft, true, null, call.Stop);
            var some = seen.Difference.Added + seen.Difference.Changed;
            if (some == 0)
            {
                return 0;
            }

            if (!await Asking.AgreesAsync(call, call.Get(Yes), seen, to => Changes.Print(to, seen.Difference.Changes, seen.Difference.MoreChanges)))
            {
                return null;
            }

            await call.Client.MakeSetUpAsync(answers.Draft, false, seen.Revision, call.Stop);
            return some;
        }
        catch (SentinelException refused) when (refused.Faults.Any(f => answers.Lines.ContainsKey(f.Field)))
        {
            // Told of the line of the file where the answer stands.
            throw new SentinelException(
                refused.Status, refused.Code, refused.Message,
                [.. refused.Faults.Select(f => answers.Lines.TryGetValue(f.Field, out var line) ? f with { Line = line } : f)]);
        }
    }

    private static async Task<int> TryAsync(Call call, int changed)
    {
        var found = new List<SetUpCheckView>();
        await foreach (var line in call.Client.CheckSetUpAsync(call.Stop))
        {
            found.AddRange(line.Check is { } check ? [check] : []);
            if (line.Stage == "failed")
            {
                return call.Out.Fail(Exit.Unreachable, "setup", line.Detail ?? "", []);
            }
        }

        var pages = (await call.Client.VisitorPagesAsync(call.Stop)).Where(p => p.Look is not null).ToList();
        call.Out.Give(new { changed, checks = found, pages = pages.Select(p => new { p.Key, p.Title, p.Look }) }, to =>
        {
            to.WriteLine(changed == 0 ? "Nothing had to be changed." : $"{changed} {(changed == 1 ? "thing is" : "things are")} set up.");
            to.WriteLine();
            foreach (var page in pages)
            {
                to.MarkupLine($"  {Markup.Escape(page.Title),-24} {Markup.Escape(page.Look!)}");
            }

            to.WriteLine();
            found.ForEach(one => Print(to, one));
        });
        return found.Any(f => f.State == "wrong") ? Exit.No : Exit.Done;
    }

    private static void Print(IAnsiConsole to, SetUpCheckView one)
    {
        var mark = one.State switch { "good" => "[green]good[/]   ", "wrong" => "[red]wrong[/]  ", _ => "[yellow]waiting[/]" };
        to.MarkupLine($"  {mark} {one.What,-7} {Markup.Escape(one.Said)}");
        if (one.Mend is { } mend)
        {
            to.MarkupLine($"  [grey]{"",15} {Markup.Escape(mend)}[/]");
        }
    }
}
