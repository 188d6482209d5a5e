using System.CommandLine;
using System.Text;
using System.Text.Json;
using Spectre.Console;
using WarySentinel.Contract;
using WarySentinel.Contract.SiteFile;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.SetUp;

/// <summary><c>wary setup</c>: from an empty store to a guarded site in one step, by questions or by a file of answers; ends by trying it.</summary>
internal static class SetUpVerbs
{
    private static readonly Option<FileInfo?> Answers = new("--answers") { Description = "A YAML file with the answers; nothing is asked then." };
    private static readonly Option<bool> Yes = new("--yes") { Description = "Store without asking." };
    private static readonly Option<bool> OnlyCheck = new("--check") { Description = "Change nothing; only try the site." };

    public static Command Build() => With(new Command(
        "setup", "Set the site up in one step: asks what it is, makes and wires everything, and tries it. Said again, it changes nothing. Ends with 1 where "
            + "something is wrong."),
        Answers, Yes, OnlyCheck).Does(RunAsync);

    private static async Task<int> RunAsync(Call call)
    {
        var (settings, _) = await call.Client.SettingsAsync(call.Stop);
        var file = call.Get(Answers);
        if (file is { Exists: false })
        {
            throw new UsageException($"There is no file {file.FullName}.");
        }

        if (file is null && Console.IsInputRedirected && !call.Get(OnlyCheck))
        {
            throw new UsageException("Nobody is there to ask. Write the answers into a file: wary setup --answers site-answers.yaml");
        }

        var answers = file is not null ? SetUpAnswers.Read(file.FullName, await File.ReadAllTextAsync(file.FullName, call.Stop))
            : call.Get(OnlyCheck) ? new SetUpAnswers() : SetUpAnswers.Ask(settings);
        var changed = call.Get(OnlyCheck) ? 0 : await MakeAsync(call, answers, settings);
        return changed is not { } stored ? Exit.No : await TryAsync(call, answers, stored);
    }

    /// <summary>Makes and wires everything; how many things were changed, or null where the owner does not want it.</summary>
    private static async Task<int?> MakeAsync(Call call, SetUpAnswers answers, JsonElement before)
    {
        var difference = await ApplyAsync(call, answers, true, null);
        if (difference.Difference is not { } seen || difference.Stage == "failed")
        {
            call.Out.Fail(Exit.Usage, "setup", difference.Detail ?? "The service ended without an answer.", difference.Difference?.Faults ?? []);
            return null;
        }

        var some = seen.Added + seen.Changed;
        if (some > 0 && !await Asking.AgreesAsync(call, call.Get(Yes), difference, to => Changes.Print(to, seen.Changes, seen.MoreChanges)))
        {
            return null;
        }

        if (some > 0)
        {
            var done = await ApplyAsync(call, answers, false, difference.Revision);
            if (!done.Stored)
            {
                call.Out.Fail(Exit.Conflict, "setup", done.Detail ?? "The site was changed by somebody else meanwhile. Run it again.",
                    done.Difference?.Faults ?? []);
                return null;
            }
        }

        var wanted = answers.Settings(before);
        if (wanted.EnumerateObject().Any(p => !before.TryGetProperty(p.Name, out var is_) || is_.ToString() != p.Value.ToString()))
        {
            await call.Client.SetSettingsAsync(wanted, "*", call.Stop);
            some++;
        }

        if (answers.Look is { } page)
        {
            var found = await call.Client.TakeLookAsync(page, call.Stop);
            await call.Client.SetSettingsAsync(JsonSerializer.SerializeToElement(new { look = found.Look }, ApiJson.Options), "*", call.Stop);
        }

        return some;
    }

    private static async Task<ApplyLine> ApplyAsync(Call call, SetUpAnswers answers, bool dryRun, long? revision)
    {
        var last = new ApplyLine("failed", 0, 0);
        using var content = new MemoryStream(Encoding.UTF8.GetBytes(answers.SiteFile()));
        await foreach (var line in call.Client.ApplyAsync(content, false, dryRun, revision, call.Stop))
        {
            last = line;
        }

        return last;
    }

    private static async Task<int> TryAsync(Call call, SetUpAnswers answers, int changed)
    {
        using var check = new SetUpCheck(call);
        var found = await check.AllAsync(answers.Closed ?? [], answers.Audience);
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
            foreach (var one in found)
            {
                to.MarkupLine($"  {(one.Good ? "[green]good[/] " : "[red]wrong[/]")} {one.What,-7} {Markup.Escape(one.Said)}");
                if (one.Mend is { } mend)
                {
                    to.MarkupLine($"  [grey]{"",13} {Markup.Escape(mend)}[/]");
                }
            }
        });
        return found.All(f => f.Good) ? Exit.Done : Exit.No;
    }
}
