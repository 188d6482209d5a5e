using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Redirects;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Redirects;

/// <summary><c>wary redirect list|set|order|try|remove</c>.</summary>
internal static class RedirectVerbs
{
    private const string Occasions = "sign-in, sign-out, first-sign-in, registration, confirmation, approval, password-set, refusal or unlock";

    private static readonly Argument<string> Key = new("key") { Description = "The redirect's key." };
    private static readonly Argument<string[]> Keys = new("keys") { Description = "The keys, the first first; others stay behind them." };
    private static readonly Argument<string> Who = new("who") { Description = "A member's address, or a viewpoint: guest, role:dealer." };
    private static readonly Option<string> On = new("--on") { Description = $"The occasion: {Occasions}.", Required = true };
    private static readonly Option<string> TriedOn = new("--on") { Description = $"The occasion: {Occasions}.", DefaultValueFactory = _ => "sign-in" };
    private static readonly Option<string> Audience = new("--audience")
    { Description = "Whom it is for, such as role:dealer.", DefaultValueFactory = _ => "anyone" };
    private static readonly Option<string> To = new("--to")
    { Description = "An address on this site; {member}, {role}, {return_to} and {home} stand for what is known then.", Required = true };
    private static readonly Option<int?> Position = new("--position") { Description = "The order in which redirects are tried, lowest first (usual: 100)." };
    private static readonly Option<bool> Insists = new("--insists") { Description = "Let it count before the page that somebody wanted." };
    private static readonly Option<string?> Wanted = new("--wanted") { Description = "The page that they were going to." };
    private static readonly Option<string?> Form = new("--form") { Description = "Where the form leads that they use." };

    public static Command Build()
    {
        var redirect = new Command("redirect", "Where people land when they sign in, are refused, and so on. The first that admits counts.");
        redirect.Subcommands.Add(new Command("list", "All redirects, in their order.")
            .Does(async call => List(call, await call.Client.RedirectsAsync(call.Stop))));
        redirect.Subcommands.Add(With(With(new Command("set", "Add a redirect, or change one."), Key), On, Audience, To, Position, Insists).Does(SetAsync));
        redirect.Subcommands.Add(With(new Command("order", "Put redirects into an order."), Keys).Does(
            async call => List(call, await call.Client.OrderRedirectsAsync(call.Get(Keys), call.Stop))));
        redirect.Subcommands.Add(With(With(new Command("try", "Say where somebody would land, and why. Nothing is changed."), Who), TriedOn, Wanted, Form)
            .Does(TryAsync));
        redirect.Subcommands.Add(With(new Command("remove", "Remove a redirect."), Key).Does(async call =>
        {
            await call.Client.RemoveRedirectAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"Removed the redirect [bold]{Markup.Escape(call.Get(Key))}[/].");
        }));
        return redirect;
    }

    private static int List(Call call, IReadOnlyList<RedirectView> all) => call.Out.Table(
        all, "No redirects yet: people land where they were going, or on the start page.", ("key", r => r.Key), ("on", r => r.On),
        ("audience", r => r.Audience), ("to", r => r.To), ("position", r => r.Position.ToString(CultureInfo.InvariantCulture)),
        ("insists", r => r.Insists ? "yes" : ""));

    private static async Task<int> SetAsync(Call call)
    {
        var draft = new RedirectDraft(
            call.Get(Key), call.Get(On), call.Get(Audience), call.Get(To), call.Get(Position), call.Get(Insists));
        var put = await call.Client.PutRedirectAsync(call.Get(Key), draft, call.Stop);
        var whatever = put.Insists ? ", whatever they wanted" : "";
        return call.Out.Say(put, $"On {put.On}, {Markup.Escape(put.Audience)} lands on [bold]{Markup.Escape(put.To)}[/]{whatever}.");
    }

    private static async Task<int> TryAsync(Call call)
    {
        var found = await call.Client.TryRedirectAsync(
            new LandingQuestion(call.Get(Who), call.Get(TriedOn), call.Get(Wanted), call.Get(Form)), call.Stop);
        return call.Out.Give(found, to =>
        {
            to.MarkupLine($"[bold]{Markup.Escape(found.Who)}[/] → [bold]{Markup.Escape(found.To ?? "nowhere in particular")}[/]");
            to.WriteLine(found.Reason);
            foreach (var way in found.Ways.Where(w => w.Step != "taken"))
            {
                to.MarkupLine($"[grey]{Markup.Escape($"{way.Rule ?? way.Why}: {way.To} ({way.Step.Replace('-', ' ')})")}[/]");
            }
        });
    }
}
