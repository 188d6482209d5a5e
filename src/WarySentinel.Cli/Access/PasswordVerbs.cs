using System.CommandLine;
using Spectre.Console;
using static WarySentinel.Cli.Access.GateVerbs;

namespace WarySentinel.Cli.Access;

/// <summary><c>wary password add|list|withdraw</c>: the shared passwords of gates.</summary>
internal static class PasswordVerbs
{
    private static readonly Argument<string> Gate = new("gate") { Description = "The gate's key." };
    private static readonly Option<string?> OfGate = new("--gate") { Description = "Only of this gate." };
    private static readonly Option<string?> Label = new("--label") { Description = "For whom it is." };
    private static readonly Option<string?> Password = new("--password") { Description = "The password; left out, it is read from standard input." };
    private static readonly Option<DateTimeOffset?> From = new("--from") { Description = "Start." };
    private static readonly Option<DateTimeOffset?> Until = new("--until") { Description = "End." };
    private static readonly Argument<Guid> Id = new("id") { Description = "The id that the list shows." };

    public static Command Build()
    {
        var password = new Command("password", "Shared passwords of gates. They can be given and withdrawn, never read back.");
        password.Subcommands.Add(With(With(new Command("add", "Give a gate a shared password."), Gate), Label, Password, From, Until).Does(AddAsync));
        password.Subcommands.Add(With(new Command("list", "All shared passwords, with their use."), OfGate).Does(ListAsync));
        password.Subcommands.Add(With(new Command("withdraw", "Withdraw one; what it opened closes at once."), Id).Does(WithdrawAsync));
        return password;
    }

    private static async Task<int> AddAsync(Call call)
    {
        var typed = call.Get(Password) ?? Typed.Secret("Password for the gate: ");
        var added = await call.Client.AddPasswordAsync(call.Get(Gate), call.Get(Label) ?? "", typed, call.Get(From), call.Get(Until), call.Stop);
        return call.Out.Say(added, $"Added a shared password to [bold]{Markup.Escape(added.Gate)}[/] for {Markup.Escape(added.Label)}. [grey]{added.Id}[/]");
    }

    private static async Task<int> ListAsync(Call call) => call.Out.Table(
        await call.Client.PasswordsAsync(call.Get(OfGate), call.Stop), "No shared passwords yet.",
        ("id", p => p.Id.ToString()), ("gate", p => p.Gate), ("for", p => p.Label), ("state", p => p.WithdrawnAt is not null ? "withdrawn" : p.InForce ? "in force" : "dated"),
        ("uses", p => p.Uses.ToString(System.Globalization.CultureInfo.InvariantCulture)), ("last used", p => p.LastUsedAt?.ToString("u") ?? "never"));

    private static async Task<int> WithdrawAsync(Call call)
    {
        var ended = await call.Client.WithdrawAsync(call.Get(Id), call.Stop);
        return call.Out.Say(ended, $"Withdrew the password for {Markup.Escape(ended.Label)}. What it opened is closed.");
    }
}

/// <summary>Reads what must not stand on the command line.</summary>
internal static class Typed
{
    /// <summary>A secret from the terminal, unseen, or one line from a pipe.</summary>
    public static string Secret(string prompt)
    {
        if (Console.IsInputRedirected)
        {
            return Console.In.ReadLine() ?? "";
        }

        Console.Error.Write(prompt);
        var built = new System.Text.StringBuilder();
        while (Console.ReadKey(true) is { Key: not ConsoleKey.Enter } key)
        {
            if (key.Key == ConsoleKey.Backspace && built.Length > 0)
            {
                built.Length--;
            }
            else if (!char.IsControl(key.KeyChar))
            {
                built.Append(key.KeyChar);
            }
        }

        Console.Error.WriteLine();
        return built.ToString();
    }
}
