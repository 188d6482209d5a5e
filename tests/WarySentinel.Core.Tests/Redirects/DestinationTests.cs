using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Redirects;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Redirects;

/// <summary>Who lands where, held against a second, plain reading of the same rules.</summary>
public sealed class DestinationTests
{
    private static readonly string[] Pages =
        ["/", "/shop", "/shop/filters", "/shop/dealer", "/product/gear", "/members/calendar", "/members/x", "/nowhere", "{home}", "{return_to}",
            "/hello/{member}",
        "/as/{role}", "/shop?from={return_to}"];

    private static readonly string[] Audiences = ["anyone", "guest", "signed-in", "role:dealer", "role:guide", "not role:dealer", "role:dealer or role:guide"];
    private static readonly Visitor[] Visitors = [Visitor.Guest, new() { IsSignedIn = true, NameInAddresses = "m1" }, Named("dealer"), Named("guide")];

    private static readonly Policy Site = Policy(
        Shop(), Gate("stock", "category:dealer", "role:dealer"), Gate("members", "path:/members/**", "signed-in and not role:dealer"));

    [Property(MaxTest = 400)]
    public Property Everybody_lands_where_a_plain_reading_of_the_rules_says() => Prop.ForAll(
        Gen.Elements(Pages).Zip(Gen.Elements(Audiences)).Zip(Gen.Choose(0, 3).Zip(Gen.Elements(true, false))).ListOf().ToArbitrary(),
        Gen.Elements(Visitors).Zip(Gen.Elements([null, .. Pages[..8]])).Zip(Gen.Elements([null, .. Pages[..8]])).ToArbitrary(),
        (rules, asked) =>
        {
            var ((visitor, wanted), form) = asked;
            var book = rules.Select((r, i) => new Redirect(
                "r" + i.ToString("00", null), (RedirectOn)(r.Item2.Item1 == 3 ? (int)RedirectOn.FirstSignIn : r.Item2.Item1),
                    AudienceParser.Parse(r.Item1.Item2).Value,
                r.Item1.Item1, 1, r.Item2.Item2)).ToList();
            var policy = book.Aggregate(WithHome(), (p, r) => p.After(new Edit("x", "x", [new RedirectPut(r)])));
            foreach (var on in Enum.GetValues<RedirectOn>())
            {
                var found = Destination.Of(policy, new Lander(on, visitor, wanted, form), Now);
                found.To.ShouldBe(Plainly(policy, book, on, visitor, wanted, form));
                if (found.To is { } to)
                {
                    policy.OpensPath(visitor, to.Split('?')[0]).ShouldBeTrue("never a page that they may not open");
                    found.Ways[^1].Step.ShouldBe(DestinationStep.Taken);
                }
            }
        });

    [Theory]
    [InlineData("/account/sign-in", "redirect-ring")]
    [InlineData("/account/sign-out?x=1", "redirect-ring")]
    [InlineData("/sentinel/check", "redirect-ring")]
    [InlineData("//evil.example/", "redirect-form")]
    [InlineData("https://evil.example/", "redirect-form")]
    [InlineData("/x/{memer}", "placeholder-near")]
    [InlineData("/x/{zzzzzzz}", "placeholder-unknown")]
    [InlineData("/x{home}", "placeholder-alone")]
    [InlineData("{return_to}/x", "placeholder-alone")]
    [InlineData("/shop/dealer", "redirect-closed")]
    public void A_redirect_that_leads_nowhere_is_refused(string to, string code)
    {
        var problem = RedirectCommands.Put(Site, new RedirectDraft("k", "sign-in", "guest", to), new(new KnownKeys(Site, _ => false), Reserved, Now)).Problem;
        problem!.Faults.ShouldHaveSingleItem().Field.ShouldBe("to");
        problem.Faults[0].Message.Key.ShouldBe("problem." + code);
    }

    [Theory]
    [InlineData("role:dealer", "/shop/dealer")]
    [InlineData("guest", "/account/")]
    [InlineData("signed-in", "/shop/dealer")]
    [InlineData("anyone", "{home}")]
    [InlineData("anyone", "/search?q={return_to}")]
    public void A_redirect_that_leads_somebody_somewhere_is_stored(string audience, string to) =>
        RedirectCommands.Put(Site, new RedirectDraft("k", "sign-in", audience, to), new(new KnownKeys(Site, _ => false), Reserved, Now)).IsGood.ShouldBeTrue();

    [Fact]
    public void An_order_is_kept_and_those_that_are_not_named_stay_behind()
    {
        var policy = new[] { "a", "b", "c", "d" }.Aggregate(
            Site, (p, k) => p.After(new Edit("x", "x", [new RedirectPut(new Redirect(k, RedirectOn.SignIn, Audience.Anyone, "/", 100))])));
        var ordered = RedirectCommands.Order(policy, ["c", "a"]).Value;
        RedirectBook.Of(policy.After(ordered.ToStore)).All.Select(r => r.Key).ShouldBe(["c", "a", "b", "d"]);
        RedirectCommands.Order(policy, ["c", "e"]).Problem!.Code.ShouldBe("redirect-unknown");
        RedirectCommands.Order(policy.After(ordered.ToStore), ["c", "a"]).Value.ToStore.Changes.ShouldBeEmpty();
    }

    [Fact]
    public void A_refused_visitor_is_led_elsewhere_unless_the_gate_says_what_they_get()
    {
        var policy = Site.After(new Edit("x", "x", [new RedirectPut(new Redirect("join", RedirectOn.Refusal, Audience.Anyone, "/join?for={return_to}", 1))]));
        var refusal = policy.Decide(Visitor.Guest, Path("/shop/dealer"), Acts.Open, Now).Refusal!;
        Destination.OfRefusal(policy, Visitor.Guest, refusal, "/shop/dealer", Now).ShouldBe("/join?for=%2Fshop%2Fdealer");
        Destination.OfRefusal(policy, Visitor.Guest, refusal with { Gate = refusal.Gate with { Answer = Answer.SignIn } }, "/shop/dealer", Now).ShouldBeNull();
        var insists = policy.After(new Edit("x", "x", [new RedirectPut(new Redirect("join", RedirectOn.Refusal, Audience.Anyone, "/join", 1, true))]));
        Destination.OfRefusal(insists, Visitor.Guest, refusal with { Gate = refusal.Gate with { Answer = Answer.SignIn } }, "/x", Now).ShouldBe("/join");
    }

    private static Visitor Named(string role) => new() { IsSignedIn = true, NameInAddresses = "m-" + role, Grants = [new Grant(FactKind.Role, role)] };

    private static Policy WithHome() => Site.After(new Edit("x", "x",
        [new FactDefinitionPut(Site.FindDefinition(FactKind.Role, "dealer")! with { Home = "/shop/dealer" }),
        new FactDefinitionPut(Site.FindDefinition(FactKind.Role, "guide")! with { Home = "/shop/dealer" })]));

    /// <summary>The same, written down from the rules as they are told to owners.</summary>
    private static string? Plainly(Policy policy, List<Redirect> book, RedirectOn on, Visitor visitor, string? wanted, string? form)
    {
        bool Open(string? to) => to is not null && policy.OpensPath(visitor, to.Split('?')[0]);
        var role = (visitor.Grants.Count == 0 ? null : visitor.Grants[0].Key);
        // Only dealers can open the home page of both roles.
        var home = role == "dealer" ? "/shop/dealer" : null;
        string? Fill(string to)
        {
            var map = new Dictionary<string, string?>
            {
                ["{home}"] = home, ["{return_to}"] = wanted, ["{member}"] = visitor.NameInAddresses,
                ["{role}"] = role
            };
            foreach (var (name, value) in map.Where(m => to.Contains(m.Key, StringComparison.Ordinal)))
            {
                if (value is null)
                {
                    return null;
                }

                to = to == name ? value : to.Replace(name, Uri.EscapeDataString(value), StringComparison.Ordinal);
            }

            return to;
        }

        IEnumerable<Redirect> mine = book.Where(r => r.On == on);
        if (on == RedirectOn.FirstSignIn)
        {
            mine = mine.Concat(book.Where(r => r.On == RedirectOn.SignIn));
        }

        var fitting = mine.Where(r => r.Audience.Admits(visitor, "", Now)).Select(r => (r.Insists, To: Fill(r.To))).Where(r => Open(r.To)).ToList();
        var homeCounts = on is not (RedirectOn.SignOut or RedirectOn.Refusal or RedirectOn.Unlock);
        return fitting.Where(r => r.Insists).Select(r => r.To).FirstOrDefault() ?? (Open(wanted) ? wanted : null) ?? (Open(form) ? form : null)
            ?? fitting.Where(r => !r.Insists).Select(r => r.To).FirstOrDefault() ?? (homeCounts && Open(home) ? home : null);
    }
}
