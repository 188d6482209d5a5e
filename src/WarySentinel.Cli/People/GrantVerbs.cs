using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary grant list|give|set|end</c>.</summary>
internal static class GrantVerbs
{
    private static readonly Argument<string> Member = new("member") { Description = "The member's e-mail address or id." };
    private static readonly Argument<string> Fact = new("fact")
    { Description = "What is held: role:, group: or plan: with a key, or bought: with an item. To end or date one, also the id that the list shows." };
    private static readonly Option<string?> From = new("--from")
    { Description = "When it begins: a day of the site's time zone, or a moment. At once unless said." };
    private static readonly Option<string?> Until = new("--until")
    { Description = "When it ends; the whole of a day. Unless said, a plan lasts as long as it does and anything else for good, as never says." };
    private static readonly Option<string?> Source = new("--source")
    { Description = "What gives it, such as order:4711. Saying it again from the same source changes nothing." };

    public static Command Build()
    {
        var grant = new Command("grant", "What members hold, since when and until when.");
        grant.Subcommands.Add(With(new Command("list", "Everything a member holds or held."), Member).Does(ListAsync));
        grant.Subcommands.Add(With(With(With(new Command("give", "Give a member a fact."), Member), Fact), From, Until, Source).Does(GiveAsync));
        grant.Subcommands.Add(With(With(With(new Command("set", "Give a grant other dates."), Member), Fact), From, Until, Source).Does(SetAsync));
        grant.Subcommands.Add(With(With(With(new Command("end", "End a grant now."), Member), Fact), Source).Does(EndAsync));
        return grant;
    }

    private static async Task<int> ListAsync(Call call) => call.Out.Table(
        (await call.Client.MemberAsync(call.Get(Member), call.Stop)).Value.Grants.OrderByDescending(g => g.InForce).ToList(), "Holds nothing yet.",
        ("fact", g => g.Fact), ("from", g => Day(g.From, "always")), ("until", g => Day(g.Until, "for good")), ("by", g => g.Source),
        ("now", g => g.InForce ? "in force" : g.From > DateTimeOffset.UtcNow ? "not yet" : "over"), ("id", g => g.Id.ToString()));

    private static async Task<int> GiveAsync(Call call) => Say(
        call, await call.Client.GiveAsync(call.Get(Member), call.Get(Fact), call.Get(From), call.Get(Until), call.Get(Source), call.Stop), "Gave",
        "holds that already, from the same source");

    private static async Task<int> SetAsync(Call call) => await FindAsync(call) is { } found
        ? Say(call, await call.Client.SetGrantAsync(call.Get(Member), found.Id, call.Get(From) ?? found.From?.ToString("O"), call.Get(Until), call.Stop),
            "Set", "has those dates already")
        : Missing(call);

    private static async Task<int> EndAsync(Call call) => await FindAsync(call) is { } found
        ? Say(call, await call.Client.EndGrantAsync(call.Get(Member), found.Id, call.Stop), "Ended", "was over already") : Missing(call);

    /// <summary>The grant of that id, or the one of that fact that is in force or to come; from the source, where one is said.</summary>
    private static async Task<GrantView?> FindAsync(Call call)
    {
        var held = (await call.Client.MemberAsync(call.Get(Member), call.Stop)).Value.Grants;
        var (named, source) = (call.Get(Fact), call.Get(Source));
        return held.FirstOrDefault(g => g.Id.ToString() == named)
            ?? held.Where(g => g.Fact == named && (source is null || g.Source == source)).OrderByDescending(g => g.InForce)
            .ThenByDescending(g => g.Until is null).FirstOrDefault();
    }

    private static int Missing(Call call)
    {
        Console.Error.WriteLine($"wary: {call.Get(Member)} has no grant of {call.Get(Fact)}{(call.Get(Source) is { } source ? " from " + source : "")}.");
        return 3;
    }

    private static int Say(Call call, GrantedView granted, string done, string otherwise) => call.Out.Say(granted, granted.Changed
        ? $"{done} [bold]{Markup.Escape(granted.Grant.Fact)}[/] [grey]({Markup.Escape(granted.Grant.Source)}, "
            + $"from {Day(granted.Grant.From, "always")}, until {Day(granted.Grant.Until, "for good")})[/]."
        : $"Nothing changed: {Markup.Escape(call.Get(Member))} {otherwise} [grey]({Markup.Escape(granted.Grant.Fact)})[/].");

    private static string Day(DateTimeOffset? at, string otherwise) =>
        at?.ToString("yyyy-MM-dd HH:mm'Z'", System.Globalization.CultureInfo.InvariantCulture) ?? otherwise;
}
