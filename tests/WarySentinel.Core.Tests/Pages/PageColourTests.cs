using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Gates;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Core.Tests.Pages;

/// <summary>Whatever colours the owner takes, what stands on pages can be read (WCAG 2.2 §1.4.3), or they are refused with the nearest that can.</summary>
public sealed class PageColourTests
{
    private static readonly Random Random = new(4);

    [Theory]
    [InlineData("#000000", "#ffffff", 21)]
    [InlineData("#ffffff", "#ffffff", 1)]
    [InlineData("#777777", "#ffffff", 4.48)]
    [InlineData("#767676", "#ffffff", 4.54)]
    [InlineData("#ff0000", "#ffffff", 4.0)]
    [InlineData("#0000ff", "#ffff00", 8.0)]
    public void The_ratio_is_that_of_the_standard(string one, string other, double ratio)
    {
        Contrast.Of(one, other).ShouldBe(ratio, 0.01);
        Contrast.Of(other, one).ShouldBe(ratio, 0.01);
    }

    [Fact]
    public void Any_look_that_is_taken_can_be_read_by_day_and_by_night()
    {
        var taken = 0;
        for (var trial = 0; trial < 4_000; trial++)
        {
            var look = new SiteLook
            {
                Accent = Any(), Background = Any(), Sky = trial % 2 == 0 ? null : Any(), Night = trial % 3 == 0 ? Any() : null, Theme = PageTheme.Auto,
            };
            if (PageColours.Unreadable(look).Any())
            {
                continue;
            }

            taken++;
            foreach (var (colours, sheet) in new[] { (PageColours.ByDay(look), PageColours.Sheet), (PageColours.ByNight(look), PageColours.NightSheet) })
            {
                Contrast.Of(colours.Accent, sheet).ShouldBeGreaterThanOrEqualTo(4.5);
                Contrast.Of(colours.OnGround, colours.Ground).ShouldBeGreaterThanOrEqualTo(4.5);
            }
        }

        taken.ShouldBeGreaterThan(300);
    }

    [Fact]
    public void What_is_refused_is_refused_with_a_colour_that_is_taken_and_is_no_farther_than_it_has_to_be()
    {
        for (var trial = 0; trial < 2_000; trial++)
        {
            var look = new SiteLook { Accent = Any(), Background = Any() };
            foreach (var (field, colour, nearest) in PageColours.Unreadable(look))
            {
                var mended = field == "look.accent" ? look with { Accent = nearest } : look with { Background = nearest };
                PageColours.Unreadable(mended).ShouldNotContain(u => u.Field == field);
                nearest.ShouldNotBe(colour);
            }
        }

        Contrast.NearestOn("#777777", "#ffffff").ShouldBe("#767676");
    }

    [Fact]
    public void A_look_that_cannot_be_read_is_refused_where_it_is_set_and_one_of_before_stays_while_other_things_change()
    {
        var policy = Scene.Policy(Scene.Shop());
        var faults = Set(policy, policy.Settings with { Look = new SiteLook { Accent = "#e8c15a" } }).Problem!.Faults;
        faults.ShouldHaveSingleItem().Field.ShouldBe("look.accent");
        Set(policy, policy.Settings with { Look = new SiteLook { Theme = (PageTheme)(-1) } }).Problem!.Faults[0].Field.ShouldBe("look.theme");
        Set(policy, policy.Settings with { Look = new SiteLook { Accent = "red" } }).Problem!.Faults.ShouldHaveSingleItem().Message.Key
            .ShouldBe("problem.colour-form");
        var old = policy.After(new Edit("x", "x", [new SettingsPut(policy.Settings with { Look = new SiteLook { Accent = "#e8c15a" } })]));
        Set(old, old.Settings with { SiteName = "Another" }).Problem.ShouldBeNull();
    }

    private static Outcome<Edit<SiteSettings>> Set(Policy policy, SiteSettings settings) =>
        SettingsCommands.Set(policy, settings, null, new GateSurroundings(new KnownKeys(policy, _ => false), Scene.Reserved, [], Scene.Now));

    private static string Any() => $"#{Random.Next(0x1000000):x6}";
}
