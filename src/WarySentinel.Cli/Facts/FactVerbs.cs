using System.CommandLine;
using Spectre.Console;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Facts;

/// <summary><c>wary role|group|plan list|add|remove</c>.</summary>
internal static class FactVerbs
{
    public static IEnumerable<Command> Build()
    {
        foreach (var (noun, plural, about) in new[] { ("role", "roles", "Roles: what members are on the site."),
            ("group", "groups", "Groups: sets of customers."), ("plan", "plans", "Plans: memberships.") })
        {
            var key = new Argument<string>("key") { Description = $"The {noun}'s key." };
            var title = new Option<string?>("--title") { Description = "What people call it." };
            var command = new Command(noun, about);
            command.Subcommands.Add(new Command("list", $"All {plural}.").Does(async call => call.Out.Table(
                await call.Client.FactDefinitionsAsync(plural, call.Stop), $"No {plural} yet.",
                ("key", s => s.Key), ("title", s => s.Title), ("members", s => s.Members.ToString(System.Globalization.CultureInfo.InvariantCulture)))));
            command.Subcommands.Add(With(With(new Command("add", $"Add a {noun}."), key), title).Does(async call =>
            {
                var added = await call.Client.AddFactDefinitionAsync(plural, call.Get(key), call.Get(title) ?? call.Get(key), call.Stop);
                return call.Out.Say(added, $"Added the {noun} [bold]{Markup.Escape(added.Key)}[/] ({Markup.Escape(added.Title)}).");
            }));
            command.Subcommands.Add(With(new Command("remove", $"Remove a {noun} that nobody holds."), key).Does(async call =>
            {
                await call.Client.RemoveFactDefinitionAsync(plural, call.Get(key), call.Stop);
                return call.Out.Say(new { removed = call.Get(key) }, $"Removed the {noun} [bold]{Markup.Escape(call.Get(key))}[/].");
            }));
            yield return command;
        }
    }
}
