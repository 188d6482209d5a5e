using System.CommandLine;
using System.Text.Json;
using Spectre.Console;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary sync</c>: people as another program has them.</summary>
internal static class SyncVerbs
{
    private const int Batch = 500;

    private static readonly Argument<string> Source = new("program") { Description = "The program's name, such as newsletter." };
    private static readonly Argument<string> From = new("file")
    { Description = "One person a line, as JSON: {\"key\":\"4711\",\"email\":…,\"groups\":[…]}; - reads standard input." };
    private static readonly Option<bool> Skip = new("--skip-unknown") { Description = "Leave out who has no account, instead of adding them as invited." };

    public static Command Build() => With(With(With(
        new Command("sync", "Keep what members hold in step with another program; said again, it changes nothing."), Source), From), Skip).Does(RunAsync);

    private static async Task<int> RunAsync(Call call)
    {
        using var from = call.Get(From) == "-" ? Console.In : new StreamReader(call.Get(From));
        var (all, batch, line) = (new SyncView(0, 0, 0, 0, 0, []), new List<SyncPersonDraft>(), 0);
        while (await from.ReadLineAsync(call.Stop) is { } text)
        {
            line++;
            if (string.IsNullOrWhiteSpace(text))
            {
                continue;
            }

            if (Read(text) is not { } person)
            {
                await Console.Error.WriteLineAsync(
                    $"wary: line {line} is no person as JSON. {all.People.Count} before it are done; the same file again is safe.");
                return Exit.Usage;
            }

            batch.Add(person);
            if (batch.Count == Batch)
            {
                all = await SendAsync(call, all, batch);
            }
        }

        all = await SendAsync(call, all, batch);
        call.Out.Say(all, $"{all.Added} added, {all.Changed} changed, {all.Same} the same, {all.Skipped} left out, {all.Refused} refused.");
        foreach (var refused in all.People.Where(p => p.Effect == "refused"))
        {
            await Console.Error.WriteLineAsync($"wary: {refused.Key}: {refused.Detail}");
        }

        return all.Refused > 0 ? Exit.No : Exit.Done;
    }

    private static async Task<SyncView> SendAsync(Call call, SyncView all, List<SyncPersonDraft> batch)
    {
        if (batch.Count == 0)
        {
            return all;
        }

        var done = await call.Client.SyncAsync(call.Get(Source), new SyncDraft([.. batch], call.Get(Skip) ? "skip" : null), call.Stop);
        batch.Clear();
        return new SyncView(
            all.Added + done.Added, all.Changed + done.Changed, all.Same + done.Same, all.Skipped + done.Skipped, all.Refused + done.Refused,
            [.. all.People, .. done.People]);
    }

    private static SyncPersonDraft? Read(string line)
    {
        try
        {
            return JsonSerializer.Deserialize<SyncPersonDraft>(line, ApiJson.Options);
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
