using FsCheck.Xunit;
using Shouldly;
using Xunit;

namespace WarySentinel.Core.Tests;

public sealed class RecentTests
{
    [Property]
    public bool What_was_asked_for_last_is_kept_and_no_more_than_there_is_room_for(ushort[] names)
    {
        var recent = new Recent<int>(100);
        foreach (var name in names)
        {
            recent.Keep(name.ToString(System.Globalization.CultureInfo.InvariantCulture), name);
        }

        var last = names.Reverse().Distinct().Take(40);
        return recent.Count <= 101 && last.All(n => recent.TryGet(n.ToString(System.Globalization.CultureInfo.InvariantCulture), out var value) && value == n);
    }

    [Fact]
    public void What_is_asked_for_again_and_again_outlives_a_flood()
    {
        var recent = new Recent<int>(100);
        recent.Keep("mine", 7);
        for (var n = 0; n < 100_000; n++)
        {
            recent.Keep("flood-" + n, n);
            if (n % 20 == 0)
            {
                recent.TryGet("mine", out var value).ShouldBeTrue();
                value.ShouldBe(7);
            }
        }

        recent.Count.ShouldBeLessThanOrEqualTo(101);
    }

    [Fact]
    public async Task However_many_ask_and_keep_at_once_each_finds_what_was_kept_under_that_name()
    {
        var recent = new Recent<int>(8);
        var found = await Task.WhenAll(Enumerable.Range(0, 4).Select(worker => Task.Run(() => Enumerable.Range(0, 20_000).Count(n =>
        {
            var name = (n * (worker + 1)) % 12;
            recent.Keep(Name(name), name);
            return !recent.TryGet(Name((name + worker) % 12), out var value) || value == (name + worker) % 12;
        }))));

        found.ShouldAllBe(right => right == 20_000);
        recent.Count.ShouldBeLessThanOrEqualTo(12);
    }

    private static string Name(int number) => number.ToString(System.Globalization.CultureInfo.InvariantCulture);
}
