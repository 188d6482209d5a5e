using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Core.Access;
using Xunit;

namespace WarySentinel.Core.Tests.Access;

public sealed class ThrottleTests
{
    private readonly FakeTimeProvider time = new(Scene.Now);

    [Fact]
    public void Some_tries_are_free_then_each_costs_twice_the_wait()
    {
        var throttle = new Throttle(time, 3, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
        for (var n = 0; n < 3; n++)
        {
            throttle.WaitOf("x").ShouldBe(TimeSpan.Zero);
            throttle.Wrong("x");
        }

        throttle.WaitOf("x").ShouldBe(TimeSpan.FromSeconds(1));
        time.Advance(TimeSpan.FromSeconds(1));
        throttle.WaitOf("x").ShouldBe(TimeSpan.Zero);
        throttle.Wrong("x");
        throttle.WaitOf("x").ShouldBe(TimeSpan.FromSeconds(2));
        throttle.WaitOf("y").ShouldBe(TimeSpan.Zero);
    }

    [Fact]
    public void The_wait_is_bounded_and_a_quiet_name_starts_afresh()
    {
        var throttle = new Throttle(time, 1, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
        for (var n = 0; n < 60; n++)
        {
            throttle.Wrong("x");
        }

        throttle.WaitOf("x").ShouldBe(TimeSpan.FromMinutes(5));
        time.Advance(TimeSpan.FromMinutes(15));
        throttle.WaitOf("x").ShouldBe(TimeSpan.Zero);
        throttle.FreeLeft("x").ShouldBe(1);
    }

    [Fact]
    public void A_right_try_is_forgiven()
    {
        var throttle = new Throttle(time, 1, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
        throttle.Wrong("x");
        throttle.Wrong("x");
        throttle.Right("x");
        throttle.WaitOf("x").ShouldBe(TimeSpan.Zero);
    }
}
