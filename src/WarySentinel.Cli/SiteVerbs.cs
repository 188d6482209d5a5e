using System.CommandLine;
using Spectre.Console;
using WarySentinel.Contract;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli;

/// <summary><c>wary status</c>, <c>wary first-owner</c>, <c>wary settings</c>.</summary>
internal static class SiteVerbs
{
    private static readonly Argument<string> Email = new("email") { Description = "The owner's e-mail address." };
    private static readonly Option<string> Name = new("--name") { Description = "The owner's name.", Required = true };
    private static readonly Option<string> Code = new("--code") { Description = "The code from the service's log.", Required = true };
    private static readonly Argument<string> FaultKind = new("kind")
    { Description = "What it is, as wary status says: gate, item, redirect, standing, password, settings." };
    private static readonly Argument<string> FaultKey = new("key") { Description = "Its name, as wary status says." };
    private static readonly Option<FileInfo?> Set = new("--set") { Description = "A JSON file with the settings to change." };

    public static IEnumerable<Command> Build()
    {
        yield return new Command("status", "How the service is. Exit code 1 where something that is stored cannot be read, and is closed for it.")
            .Does(StatusAsync);
        yield return With(new Command("mend",
            "Drop what is stored of something that cannot be read; what it closed is open again, unless other gates cover it. wary status lists them."),
            FaultKind, FaultKey).Does(MendAsync);
        yield return With(With(new Command("first-owner", "Make the first owner of a new service; the password is asked for, or read from standard input."),
            Email), Name, Code).Does(FirstOwnerAsync);
        yield return With(new Command("settings", "Show the settings of the site, or change them."), Set).Does(SettingsAsync);
    }

    private static async Task<int> StatusAsync(Call call)
    {
        var status = await call.Client.StatusAsync(call.Stop);
        return call.Out.Give(status, to =>
        {
            to.MarkupLine($"[bold]{Markup.Escape(status.SiteName)}[/] "
                + $"[grey]{Markup.Escape(status.SiteUrl)} in front of {Markup.Escape(status.Origin.Length > 0 ? status.Origin : "no origin")}[/]");
            to.WriteLine($"{Many(status.Items, "item")}, {Many(status.Gates, "gate")} ({status.GatesInForce} in force), {Many(status.Members, "member")}");
            to.MarkupLine($"[grey]version {status.Version}, {status.Database}, revision {status.Revision}, up since {status.StartedAt:u}[/]");
            if (status.OriginFault is { } origin)
            {
                to.MarkupLine($"[red bold]out of reach[/] {Markup.Escape(origin.Reason)} Since {origin.Since:u}.");
            }

            if (status.LettersGivenUp > 0)
            {
                to.MarkupLine($"[yellow]{status.LettersGivenUp} letter{(status.LettersGivenUp == 1 ? "" : "s")} given up[/]; "
                    + "see wary letter list --state given-up");
            }

            foreach (var fault in status.Faults)
            {
                Print(to, fault);
            }
        }) is var code && (status.Faults.Count > 0 || status.OriginFault is not null) ? Exit.No : code;
    }

    private static void Print(IAnsiConsole to, FaultView fault)
    {
        to.MarkupLine($"\n[red bold]closed[/] The {Markup.Escape(fault.Kind)} [bold]{Markup.Escape(fault.Key)}[/] "
            + $"cannot be read. {Markup.Escape(fault.Reason)}");
        to.MarkupLine(fault.Closed.Count > 0 ? $"       Closed for it: {Markup.Escape(string.Join(", ", fault.Closed))}"
            : "       Nothing is closed for it.");
        to.MarkupLine($"       [italic]{Markup.Escape(fault.Mend)}[/]");
    }

    private static string Many(int count, string noun) => count == 1 ? $"1 {noun}" : $"{count} {noun}s";

    private static async Task<int> MendAsync(Call call)
    {
        await call.Client.MendAsync(call.Get(FaultKind), call.Get(FaultKey), call.Stop);
        return call.Out.Say(new { dropped = $"{call.Get(FaultKind)}:{call.Get(FaultKey)}" },
            $"Dropped what was stored of the {Markup.Escape(call.Get(FaultKind))} [bold]{Markup.Escape(call.Get(FaultKey))}[/].");
    }

    private static async Task<int> FirstOwnerAsync(Call call)
    {
        await call.Client.FirstOwnerAsync(call.Get(Code)!, call.Get(Email), call.Get(Name)!, Typed.Secret("Password: "), call.Stop);
        return call.Out.Say(new { owner = call.Get(Email) }, $"[bold]{Markup.Escape(call.Get(Email))}[/] is the first owner.");
    }

    private static async Task<int> SettingsAsync(Call call)
    {
        var (settings, tag) = await call.Client.SettingsAsync(call.Stop);
        if (call.Get(Set) is { } file)
        {
            settings = await call.Client.SetSettingsAsync(
                System.Text.Json.JsonSerializer.Deserialize<System.Text.Json.JsonElement>(await File.ReadAllTextAsync(file.FullName, call.Stop)), tag!,
                call.Stop);
        }

        return call.Out.Give(settings, to => to.WriteLine(System.Text.Json.JsonSerializer.Serialize(settings, Output.Written)));
    }
}
