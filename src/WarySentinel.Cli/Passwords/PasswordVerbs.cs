using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract.Passwords;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Passwords;

/// <summary><c>wary password add|list|rotate|withdraw</c>: the shared passwords of gates.</summary>
internal static class PasswordVerbs
{
    private static readonly Argument<string> Gate = new("gate") { Description = "The gate's key." };
    private static readonly Option<string?> OfGate = new("--gate") { Description = "Only of this gate." };
    private static readonly Option<string?> Label = new("--label") { Description = "For whom it is." };
    private static readonly Option<string?> Password = new("--password")
    { Description = "The password; - reads it from standard input. Left out, a strong one is generated and told once." };
    private static readonly Option<string?> From = new("--from") { Description = "Start: a day in the site's time zone, or a time." };
    private static readonly Option<string?> Until = new("--until") { Description = "End: the last day that counts, or a time." };
    private static readonly Option<int?> MostUses = new("--most-uses") { Description = "How often it opens the gate at most." };
    private static readonly Option<string?> Asked = new("--asked") { Description = "Who is asked for it at all, such as guest, or \"not role:owner\"." };
    private static readonly Option<string?> Overlap = new("--overlap")
    { Description = "How long old and new both work: P2D is two days (usual), PT0S ends the old one at once." };
    private static readonly Option<bool> ForOrders = new("--for-orders")
    { Description = "Letters to buyers tell it, as a fulfilment rule with the way shared-password says; it is kept sealed for them." };

    private static readonly Option<string[]> Tell = new("--tell")
    { Description = "E-mail addresses that are sent it.", AllowMultipleArgumentsPerToken = true };
    private static readonly Argument<Guid> Id = new("id") { Description = "The id that the list shows." };

    public static Command Build()
    {
        var password = new Command("password", "Shared passwords of gates. They can be given and withdrawn, never read back.");
        password.Subcommands.Add(With(
            With(new Command("add", "Add a shared password to a gate."), Gate), Label, Password, From, Until, MostUses, Asked, Tell, ForOrders)
            .Does(AddAsync));
        password.Subcommands.Add(With(new Command("list", "Shared passwords, with their use."), OfGate).Does(ListAsync));
        password.Subcommands.Add(With(With(new Command("rotate", "Put a generated one in the place of another; both work for a while."), Id), Overlap, Tell)
            .Does(RotateAsync));
        password.Subcommands.Add(With(new Command("withdraw", "Withdraw one; what it opened closes at once."), Id).Does(WithdrawAsync));
        return password;
    }

    private static async Task<int> AddAsync(Call call)
    {
        var typed = call.Get(Password);
        typed = typed == "-" ? Typed.Secret("Password for the gate: ") : typed;
        var added = await call.Client.AddPasswordAsync(
            new SharedPasswordDraft(call.Get(Gate), call.Get(Label) ?? "", typed, call.Get(From), call.Get(Until), call.Get(MostUses), call.Get(Asked),
                call.Many(Tell), call.Get(ForOrders)),
            call.Stop);
        return Made(call, added, $"Added a shared password to [bold]{Markup.Escape(added.Gate)}[/] for {Markup.Escape(added.Label)}. [grey]{added.Id}[/]");
    }

    private static async Task<int> RotateAsync(Call call)
    {
        var fresh = await call.Client.RotateAsync(call.Get(Id), call.Get(Overlap), call.Many(Tell), call.Stop);
        return Made(call, fresh, $"Another password for {Markup.Escape(fresh.Label)} takes its place. [grey]{fresh.Id}[/]");
    }

    private static int Made(Call call, SharedPasswordView made, string line) => call.Out.Give(made, to =>
    {
        to.MarkupLine(line);
        if (made.Text is { } text)
        {
            to.MarkupLine("[grey]Ready to send; it is not told again:[/]");
            to.WriteLine();
            foreach (var part in text.Reveal().Split('\n'))
            {
                Console.Out.WriteLine(part.Length == 0 ? "" : "  " + part);
            }
        }
    });

    private static async Task<int> ListAsync(Call call) => call.Out.Table(
        await call.Client.PasswordsAsync(call.Get(OfGate), call.Stop), "No shared passwords yet.",
        ("id", p => p.Id.ToString()), ("gate", p => p.Gate), ("for", p => p.Label), ("state", StateOf), ("asked", p => p.Asked),
        ("uses", p => p.MostUses is { } most ? $"{p.Uses} of {most}" : p.Uses.ToString(CultureInfo.InvariantCulture)),
        ("networks", p => p.Networks.ToString(CultureInfo.InvariantCulture)),
        ("last used", p => p.LastUsedAt?.ToString("u") ?? "never"), ("until", p => p.Until?.ToString("u") ?? ""));

    private static string StateOf(SharedPasswordView p) =>
        p.WithdrawnAt is not null ? "withdrawn" : p.InForce ? "in force" : p.Uses >= p.MostUses ? "used up" : "dated";

    private static async Task<int> WithdrawAsync(Call call)
    {
        var ended = await call.Client.WithdrawAsync(call.Get(Id), call.Stop);
        return call.Out.Say(ended, $"Withdrew the password for {Markup.Escape(ended.Label)}. What it opened is closed.");
    }
}
