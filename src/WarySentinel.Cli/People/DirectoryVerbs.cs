using System.CommandLine;
using Spectre.Console;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary directory show|set|off|member|unlist</c>.</summary>
internal static class DirectoryVerbs
{
    private static readonly Argument<string> Email = new("member") { Description = "The member's e-mail address or id." };
    private static readonly Option<string?> Audience = new("--for") { Description = "Who may look at it, as an audience." };
    private static readonly Option<string?> Title = new("--title") { Description = "Its heading." };
    private static readonly Option<string?> Lead = new("--lead") { Description = "What stands beneath it." };
    private static readonly Option<string[]> Fields = new("--field")
    {
        Description =
        "A field that members may show in it; say it several times, in their order."
    };

    public static Command Build()
    {
        var directory = new Command("directory", "The directory of members who agreed to stand in it.");
        directory.Subcommands.Add(new Command("show", "Who may look at it, and what it shows.").Does(async call =>
            Tell(call, await call.Client.DirectoryAsync(call.Stop))));
        directory.Subcommands.Add(With(new Command("set", "Open it to an audience, or say what members may show in it."), Audience, Title, Lead, Fields)
            .Does(SetAsync));
        directory.Subcommands.Add(new Command("off", "Close it. What members chose to show is kept.").Does(async call =>
        {
            var there = await call.Client.DirectoryAsync(call.Stop);
            return Tell(call, await call.Client.SetDirectoryAsync(there.Directory with { Audience = null }, call.Stop));
        }));
        var member = new Command("member", "What a member shows of themselves.");
        member.Arguments.Add(Email);
        directory.Subcommands.Add(member.Does(async call =>
        {
            var listing = await call.Client.ListingAsync(call.Get(Email), call.Stop);
            return call.Out.Say(listing, !listing.Listed ? "They do not stand in the directory."
                : listing.Fields.Count == 0 ? "They show their name." : $"They show their name and: {Markup.Escape(string.Join(", ", listing.Fields))}.");
        }));
        var unlist = new Command("unlist", "Take a member out of it. Only they can put themselves in again.");
        unlist.Arguments.Add(Email);
        directory.Subcommands.Add(unlist.Does(async call =>
        {
            await call.Client.UnlistAsync(call.Get(Email), call.Stop);
            return call.Out.Say(new { unlisted = call.Get(Email) }, $"{Markup.Escape(call.Get(Email))} does not stand in the directory.");
        }));
        return directory;
    }

    private static async Task<int> SetAsync(Call call)
    {
        var there = (await call.Client.DirectoryAsync(call.Stop)).Directory;
        return Tell(call, await call.Client.SetDirectoryAsync(
            new DirectoryDraft(
                call.Get(Audience) ?? there.Audience, call.Get(Title) ?? there.Title, call.Get(Lead) ?? there.Lead,
                call.Get(Fields) is { Length: > 0 } fields ? fields : there.Fields),
            call.Stop));
    }

    private static int Tell(Call call, DirectoryView view) => call.Out.Give(view, to =>
    {
        to.WriteLine(view.Who is null ? "There is no directory: nobody may look at it." : $"{view.Address}  for: {view.Who}");
        var may = string.Join(", ", (view.Directory.Fields ?? []).DefaultIfEmpty("their name alone"));
        to.WriteLine($"{view.Listed} members stand in it. They may show: {may}.");
    });
}
