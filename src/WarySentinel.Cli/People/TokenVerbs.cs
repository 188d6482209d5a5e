using System.CommandLine;
using Spectre.Console;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary token add|list|remove</c>.</summary>
internal static class TokenVerbs
{
    private static readonly Argument<string> Label = new("label") { Description = "What the token is for." };
    private static readonly Option<string[]> Scopes = new("--scope")
    { Description = "read, write, decide, view, tokens (usual: read, decide).", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<int?> Days = new("--days") { Description = "How long it lasts; without end where left out." };
    private static readonly Option<string?> SignIn = new("--sign-in")
    { Description = "Sign in with this e-mail address; the password is asked for, or read from standard input." };
    private static readonly Option<bool> Keep = new("--keep") { Description = "Keep address and token for later calls." };
    private static readonly Argument<Guid> Id = new("id") { Description = "The id that the list shows." };

    public static Command Build()
    {
        var token = new Command("token", "Access tokens of the API.");
        token.Subcommands.Add(With(With(new Command("add", "Make a token; it is told once."), Label), Scopes, Days, SignIn, Keep).Does(AddAsync));
        token.Subcommands.Add(new Command("list", "All tokens.").Does(async call => call.Out.Table(
            await call.Client.TokensAsync(call.Stop), "No tokens yet.",
            ("id", t => t.Id.ToString()), ("label", t => t.Label), ("scopes", t => string.Join(", ", t.Scopes)), ("made", t => t.CreatedAt.ToString("u")),
            ("until", t => t.Until?.ToString("u") ?? "withdrawn by you"))));
        token.Subcommands.Add(With(new Command("remove", "Remove a token; it ends at once."), Id).Does(async call =>
        {
            await call.Client.RemoveTokenAsync(call.Get(Id), call.Stop);
            return call.Out.Say(new { removed = call.Get(Id) }, "Removed the token.");
        }));
        return token;
    }

    private static async Task<int> AddAsync(Call call)
    {
        var name = call.Get(SignIn);
        var made = await call.Client.AddTokenAsync(call.Get(Label), call.Many(Scopes), call.Get(Days), name, name is null ? null
            : Typed.Secret($"Password of {name}: "), call.Stop);
        if (call.Get(Keep))
        {
            var (url, _) = Connection.Find(call.Get(Globals.Url), made.Token?.Reveal());
            var file = Connection.Keep(url, made.Token!.Reveal());
            return call.Out.Say(made with { Token = null }, $"Kept the token in {Markup.Escape(file)}.");
        }

        return call.Out.Give(made, to =>
        {
            Console.Out.WriteLine(made.Token?.Reveal());
            to.MarkupLine("[grey]Keep it now; it is not told again. WARY_TOKEN or --token takes it.[/]");
        });
    }
}
