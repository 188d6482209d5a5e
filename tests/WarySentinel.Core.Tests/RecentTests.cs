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
        recent.Forget("mine");
        recent.TryGet("mine", out _).ShouldBeFalse();
    }

    [Fact]
    public async Task What_is_forgotten_does_not_come_back_however_many_ask()
    {
        for (var round = 0; round < 300; round++)
        {
            var recent = new Recent<int>(8);
            recent.Keep("mine", 1);
            Enumerable.Range(0, 4).ToList().ForEach(n => recent.Keep("other-" + n, n));
            var asking = Task.WhenAll(Enumerable.Range(0, 4).Select(_ => Task.Run(() => Enumerable.Range(0, 50).Count(_ => recent.TryGet("mine", out var _)))));
            recent.Forget("mine");
            await asking;
            recent.TryGet("mine", out _).ShouldBeFalse();
        }
    }
}
