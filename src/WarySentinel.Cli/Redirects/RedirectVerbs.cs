using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Redirects;

/// <summary><c>wary redirect list|set|remove</c>.</summary>
internal static class RedirectVerbs
{
    private static readonly Argument<string> Key = new("key") { Description = "The redirect's key." };
    private static readonly Option<string> On = new("--on") { Description = "sign-in or sign-out.", Required = true };
    private static readonly Option<string> Audience = new("--audience")
    { Description = "Whom it is for, such as role:dealer.", DefaultValueFactory = _ => "anyone" };
    private static readonly Option<string> To = new("--to") { Description = "An address on this site.", Required = true };
    private static readonly Option<int?> Position = new("--position") { Description = "The order in which redirects are tried, lowest first (usual: 100)." };

    public static Command Build()
    {
        var redirect = new Command("redirect", "Where people land when they sign in or out. The first that admits counts.");
        redirect.Subcommands.Add(new Command("list", "All redirects, in their order.").Does(async call => call.Out.Table(
            await call.Client.RedirectsAsync(call.Stop), "No redirects yet: people land where they were going, or on the start page.",
            ("key", r => r.Key), ("on", r => r.On), ("audience", r => r.Audience), ("to", r => r.To),
            ("position", r => r.Position.ToString(CultureInfo.InvariantCulture)))));
        redirect.Subcommands.Add(With(With(new Command("set", "Add a redirect, or change one."), Key), On, Audience, To, Position).Does(async call =>
        {
            var put = await call.Client.PutRedirectAsync(call.Get(Key), call.Get(On)!, call.Get(Audience)!, call.Get(To)!, call.Get(Position), call.Stop);
            return call.Out.Say(put, $"On {put.On}, {Markup.Escape(put.Audience)} lands on [bold]{Markup.Escape(put.To)}[/].");
        }));
        redirect.Subcommands.Add(With(new Command("remove", "Remove a redirect."), Key).Does(async call =>
        {
            await call.Client.RemoveRedirectAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"Removed the redirect [bold]{Markup.Escape(call.Get(Key))}[/].");
        }));
        return redirect;
    }
}
