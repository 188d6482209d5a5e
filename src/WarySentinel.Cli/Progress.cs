using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract;

namespace WarySentinel.Cli;

/// <summary>Shows how far long work is, for people; gives its last line.</summary>
internal static class Progress
{
    public static async Task<T?> ShowAsync<T>(Call call, IAsyncEnumerable<T> lines, Func<T, (string Words, int Done, int Total)> read)
        where T : class
    {
        T? last = null;
        if (call.Out.IsJson || Console.IsErrorRedirected)
        {
            await foreach (var line in lines)
            {
                last = line;
            }

            return last;
        }

        var errors = AnsiConsole.Create(new AnsiConsoleSettings { Out = new AnsiConsoleOutput(Console.Error) });
        await errors.Progress().AutoClear(true).StartAsync(async progress =>
        {
            var task = progress.AddTask("reading", true, 1);
            await foreach (var line in lines)
            {
                last = line;
                var (words, done, total) = read(line);
                task.Description = words;
                task.IsIndeterminate = total == 0;
                task.MaxValue = Math.Max(1, total);
                task.Value = total == 0 ? 0 : done;
            }
        });
        return last;
    }
}

/// <summary>Prints differences, field by field.</summary>
internal static class Changes
{
    public static void Print(IAnsiConsole to, IReadOnlyList<FieldChange> changes)
    {
        foreach (var change in changes)
        {
            to.MarkupLine($"      {Markup.Escape(change.Field)}: {Side(change.Before, "red")} → {Side(change.After, "green")}");
        }
    }

    public static void Print(IAnsiConsole to, IReadOnlyList<SiteChange> changes, int more)
    {
        foreach (var change in changes)
        {
            var mark = change.What switch { "added" => "[green]+[/]", "removed" => "[red]-[/]", _ => "[yellow]~[/]" };
            var what = change.What == "changed" ? "" : " " + change.What;
            to.MarkupLine($"  {mark} {Markup.Escape(change.Section)} [bold]{Markup.Escape(change.Key)}[/]{what}");
            Print(to, change.Changes);
        }

        if (more > 0)
        {
            to.WriteLine($"  … and {more} more.");
        }
    }

    private static string Side(string? text, string colour) =>
        text is null ? "[grey]–[/]" : $"[{colour}]{Markup.Escape(text.Length > 160 ? text[..160] + "…" : text)}[/]";
}
