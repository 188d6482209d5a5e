using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary request list|show|approve|decline|ask|let-go|sham</c>: those who ask to join.</summary>
internal static class RequestVerbs
{
    private const int Most = 1000;
    private static readonly Argument<string> Email = new("email") { Description = "Whose request." };
    private static readonly Argument<string[]> Emails = new("emails") { Description = "Whose requests.", Arity = ArgumentArity.OneOrMore };
    private static readonly Option<string?> Words = new("--words") { Description = "Words to them; the letter brings them." };
    private static readonly Option<string> Question = new("--words") { Description = "What you want to know.", Required = true };
    private static readonly Option<string> State = new("--state")
    { Description = "unproved, waiting, asked, held, approved, declined; several with commas.", DefaultValueFactory = _ => "waiting,asked" };

    private static readonly Option<bool> Wave = new("--wave")
    { Description = "With each, all that are held back and came from the same network within a day." };

    public static Command Build()
    {
        var request = new Command("request", "Those who ask to join: let in, asked back, or declined.");
        var list = new Command("list", "Who asks, since when; the oldest first.");
        list.Options.Add(State);
        request.Subcommands.Add(list.Does(ListAsync));
        request.Subcommands.Add(With(new Command("show", "What somebody answered, and what a yes gives."), Email).Does(ShowAsync));
        request.Subcommands.Add(With(new Command("approve", "Let in who asks; a letter tells them."), Emails, Words)
            .Does(call => DecideAsync(call, "approve", "are in", call.Get(Words))));
        request.Subcommands.Add(With(new Command("decline", "Say no to who asks; a letter tells them."), Emails, Words)
            .Does(call => DecideAsync(call, "decline", "were declined", call.Get(Words))));
        request.Subcommands.Add(With(new Command("ask", "Ask back; a letter leads them to their answers."), Email, Question).Does(async call =>
        {
            var member = await call.Client.AskBackAsync(call.Get(Email), call.Get(Question)!, call.Stop);
            return call.Out.Say(member, $"Asked [bold]{Markup.Escape(member.Email)}[/].");
        }));
        request.Subcommands.Add(With(new Command("let-go", "Let a request go its way that was held back."), Email).Does(async call =>
        {
            var member = await call.Client.LetGoAsync(call.Get(Email), call.Stop);
            return call.Out.Say(member, $"The request of [bold]{Markup.Escape(member.Email)}[/] goes its way.");
        }));
        var sham = With(new Command("sham", "Remove the accounts of shams that wait, without a letter."), Emails);
        sham.Options.Add(Wave);
        request.Subcommands.Add(sham.Does(call => DecideAsync(call, "sham", "are gone", null)));
        return request;
    }

    private static async Task<int> ListAsync(Call call)
    {
        var asking = new List<RequestView>();
        await foreach (var one in call.Client.AllAsync<RequestView>(SentinelClient.RequestsPath(call.Get(State)!), Most, call.Stop))
        {
            asking.Add(one);
        }

        return call.Out.Table(
            asking, "Nobody asks to join.", ("e-mail", r => r.Email), ("name", r => r.Name), ("form", r => r.Title), ("state", r => r.State),
            ("since", r => r.At.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)), ("signs", r => string.Join("; ", r.Signs.Select(s => s.Words))));
    }

    private static async Task<int> ShowAsync(Call call)
    {
        var one = await call.Client.RequestAsync(call.Get(Email), call.Stop);
        return call.Out.Give(one, to =>
        {
            to.MarkupLine($"[bold]{Markup.Escape(one.Name)}[/] {Markup.Escape(one.Email)}, {one.State}, {Markup.Escape(one.Title)}");
            one.Answers.ToList().ForEach(a => to.MarkupLine($"{Markup.Escape(a.Label)}: [bold]{Markup.Escape(a.Words)}[/]"));
            foreach (var e in one.Earlier)
            {
                var said = $"Asked before: {e.Email}, {e.At:yyyy-MM-dd}, {e.State} (same {e.Same}) {e.Words}";
                to.WriteLine(said);
            }

            one.Signs.ToList().ForEach(s => to.MarkupLine($"[yellow]{Markup.Escape(s.Words)}[/]"));
            to.WriteLine("A yes gives: " + (one.Grants.Count == 0 ? "nothing" : string.Join(", ", one.Grants)));
        });
    }

    private static async Task<int> DecideAsync(Call call, string decision, string done, string? words)
    {
        var (decided, failed) = (0, new List<RequestFailed>());
        var named = decision == "sham" && call.Get(Wave) ? await WithTheirWaveAsync(call, call.Get(Emails)!) : call.Get(Emails)!;
        foreach (var some in named.Chunk(100))
        {
            var part = await call.Client.DecideAsync(new RequestsDecision(some, decision, words), call.Stop);
            decided += part.Done;
            failed.AddRange(part.Failed);
        }

        var all = new RequestsDecided(decided, failed);
        call.Out.Give(all, to =>
        {
            var one = done.Replace("are ", "is ", StringComparison.Ordinal).Replace("were ", "was ", StringComparison.Ordinal);
            to.WriteLine($"{decided} {(decided == 1 ? one : done)}.");
            failed.ForEach(f => to.MarkupLine($"[red]{Markup.Escape(f.Member)}[/]: {Markup.Escape(f.Why)}"));
        });
        return failed.Count > 0 ? 4 : 0;
    }

    /// <summary>These, and whoever is held back and came from the network of one of them; asked again until a wave brings nobody new.</summary>
    private static async Task<IReadOnlyList<string>> WithTheirWaveAsync(Call call, IReadOnlyList<string> named)
    {
        var wave = new List<string>(named);
        for (var n = 0; n < wave.Count; n++)
        {
            var near = await call.Client.NearbyAsync(wave[n], call.Stop);
            wave.AddRange(near.Where(r => r.State == "held").Select(r => r.Email).Except(wave, StringComparer.OrdinalIgnoreCase).ToList());
        }

        return wave;
    }
}
