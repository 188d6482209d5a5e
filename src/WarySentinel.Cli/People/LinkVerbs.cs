using System.CommandLine;
using System.Globalization;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary link list|withdraw</c>.</summary>
internal static class LinkVerbs
{
    private const int Usual = 100;
    private static readonly Argument<Guid> Id = new("id") { Description = "The id that wary link list shows." };
    private static readonly Option<string?> Words = new("--search") { Description = "A part of the address that they went to." };
    private static readonly Option<string?> State = new("--state") { Description = "How they stand: open, used, late, replaced or withdrawn." };
    private static readonly Option<string?> Purpose = new("--purpose")
    { Description = "What they are for: invitation, set-password, sign-in, confirm, new-address, organisation, approval or application." };
    private static readonly Option<int?> Limit = new("--limit") { Description = $"So many at most (usual: {Usual})." };

    public static Command Build()
    {
        var link = new Command("link", "Links and codes that letters brought to people, and whether they were used.");
        link.Subcommands.Add(With(new Command("list", "The newest first. What stands in them is kept nowhere."), Words, State, Purpose, Limit).Does(ListAsync));
        link.Subcommands.Add(With(new Command("withdraw", "Take one back that was not used."), Id).Does(async call =>
        {
            await call.Client.WithdrawLinkAsync(call.Get(Id), call.Stop);
            return call.Out.Say(new { withdrawn = call.Get(Id) }, "Taken back: it opens nothing any more.");
        }));
        return link;
    }

    private static async Task<int> ListAsync(Call call)
    {
        var found = new List<SentLinkView>();
        await foreach (var one in call.Client.SentLinksAsync(
            call.Get(Words), call.Get(State), call.Get(Purpose), call.Get(Limit) ?? Usual, call.Stop))
        {
            found.Add(one);
        }

        return call.Out.Table(
            found, "No such link. Those that are over are kept for a while only.", ("id", l => l.Id.ToString()), ("to", l => l.Email), ("for", l => l.Purpose),
            ("way", l => l.Way), ("sent", l => l.CreatedAt.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)),
            ("state", l => l.State + (l.ClosedAt is { } at ? $" {at:yyyy-MM-dd HH:mm}" : "")));
    }
}
