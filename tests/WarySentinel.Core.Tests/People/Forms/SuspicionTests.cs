using Shouldly;
using WarySentinel.Core.People.Forms;
using Xunit;

namespace WarySentinel.Core.Tests.People.Forms;

/// <summary>
/// How many bots are held back and how many honest people are, on traffic that is made up: four kinds of people and five kinds of bots
/// (docs/explanation/sham-accounts.md says the shares that come out of this).
/// </summary>
public sealed class SuspicionTests
{
    private const int Each = 20_000;
    private readonly Random random = new(2027);

    [Fact]
    public void Ninety_nine_bots_in_a_hundred_are_held_and_fewer_than_one_person_in_two_hundred()
    {
        var people = new (string Kind, Func<JoinTraffic> Come)[]
        {
            ("at a desk", () => Person(Seconds(15, 180), true)),
            ("on a phone", () => Person(Seconds(25, 400), random.Next(500) > 0 ? true : null)),
            ("with a password manager", () => Person(Seconds(3, 25), true)),
            ("a class in one room", () => Person(Seconds(12, 300), true) with { FromNetwork = random.Next(40) }),
            // Some of them without scripts.
            ("slow, in an office", () => Person(Seconds(90, 3000), random.Next(50) > 0 ? true : null) with { FromNetwork = random.Next(12) }),
        };
        var bots = new (string Kind, Func<JoinTraffic> Come)[]
        {
            ("fills in every field", () => Bot() with { FilledDecoy = true, LookedAt = Seconds(0, 30), DidWork = random.Next(2) == 0 ? null : true }),
            ("sends at once", () => Bot() with { LookedAt = Seconds(0, 1.9), DidWork = null }),
            ("from one network, thousands", () => Bot() with { LookedAt = Seconds(6, 20), DidWork = null, FromNetwork = random.Next(21, 9000) }),
            ("from everywhere, with addresses for minutes", () => Bot() with { LookedAt = Seconds(6, 40), DidWork = true, Kind = MailDomain.Disposable }),
            ("a browser by remote control, one domain of its own", () => Bot() with
            {
                LookedAt = Seconds(2, 3.9), DidWork = true, FromDomain = random.Next(11, 900), FromNetwork = random.Next(2),
            }),
        };
        foreach (var (kind, come) in people)
        {
            Share(come).ShouldBeLessThan(0.005, kind);
        }

        foreach (var (kind, come) in bots)
        {
            Share(come).ShouldBeGreaterThanOrEqualTo(0.99, kind);
        }
    }

    [Fact]
    public void One_sign_more_never_frees_anybody()
    {
        for (var trial = 0; trial < 2000; trial++)
        {
            List<Sign> some = [.. Suspicion.Kinds.Where(_ => random.Next(5) == 0).Select(k => new Sign(k))];
            if (Suspicion.IsHeld(some))
            {
                Suspicion.IsHeld([.. some, new Sign(Suspicion.Kinds[random.Next(Suspicion.Kinds.Count)])]).ShouldBeTrue();
            }
        }

        Suspicion.IsHeld([]).ShouldBeFalse();
        Suspicion.IsHeld([new Sign("of a later version")]).ShouldBeFalse();
    }

    [Theory]
    [InlineData("Hans Schwarzschmidt", false)]
    [InlineData("Krzysztof Brzęczyszczykiewicz", false)]
    [InlineData("Nguyễn Thị Minh Khai", false)]
    [InlineData("李小龍", false)]
    [InlineData("محمد", false)]
    [InlineData("Class 4b", false)]
    [InlineData("Hdfgkjwrt", true)]
    [InlineData("Qxzrtkvbnm", true)]
    [InlineData("x9k2m4 q", true)]
    public void Names_of_people_are_none_that_machines_string_together(string name, bool odd) =>
        Suspicion.SignsOf(new JoinTraffic { Name = name, DidWork = true }).Any(s => s.Kind == "odd-name").ShouldBe(odd);

    private double Share(Func<JoinTraffic> come) => Enumerable.Range(0, Each).Count(_ => Suspicion.IsHeld(Suspicion.SignsOf(come()))) / (double)Each;

    private JoinTraffic Person(TimeSpan looked, bool? work)
    {
        var kind = random.Next(10) < 7 ? MailDomain.Trusted : random.Next(60) == 0 ? MailDomain.LookAlike : MailDomain.Unknown;
        return new JoinTraffic
        {
            Name = Names[random.Next(Names.Length)], LookedAt = looked, DidWork = work, FromNetwork = random.Next(3), Kind = kind,
            FromDomain = random.Next(kind == MailDomain.Trusted ? 400 : 8),
        };
    }

    private JoinTraffic Bot() => new()
    {
        Name = random.Next(3) == 0 ? "Qxzrtkvbnm" : Names[random.Next(Names.Length)], FromNetwork = random.Next(2),
        FromDomain = random.Next(4)
    };

    private TimeSpan Seconds(double from, double to) => TimeSpan.FromSeconds(from + (random.NextDouble() * (to - from)));

    private static readonly string[] Names =
        ["Ada Quill", "Jürgen Großmann", "Krzysztof Brzęczyszczykiewicz", "Nguyễn Thị Minh Khai", "李小龍", "محمد عبد الله", "Class 4b", "O’Brien-Smythe",
            "Bo Li"];
}
