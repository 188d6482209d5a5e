using Microsoft.Extensions.Time.Testing;
using Shouldly;
using Xunit;

namespace WarySentinel.Core.Tests.Access;

public sealed class ThrottleTests
{
    private readonly FakeTimeProvider time = new(Scene.Now);

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Some_tries_are_free_then_each_costs_twice_the_wait()
    {
        var throttle = new Throttle(time, 3, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
        for (var n = 0; n < 3; n++)
        {
            (await TryAsync(throttle, "x", true)).ShouldBe(TimeSpan.Zero);
        }

        throttle.WaitOf("x").ShouldBe(TimeSpan.FromSeconds(1));
        (await TryAsync(throttle, "x", true)).ShouldBe(TimeSpan.FromSeconds(1));
        time.Advance(TimeSpan.FromSeconds(1));
        (await TryAsync(throttle, "x", true)).ShouldBe(TimeSpan.Zero);
        throttle.WaitOf("x").ShouldBe(TimeSpan.FromSeconds(2));
        throttle.WaitOf("y").ShouldBe(TimeSpan.Zero);
    }

    [Fact]
    public async Task The_wait_is_bounded_and_a_quiet_name_starts_afresh()
    {
        var throttle = new Throttle(time, 1, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
        for (var n = 0; n < 30; n++)
        {
            await TryAsync(throttle, "x", true);
            time.Advance(throttle.WaitOf("x"));
        }

        await TryAsync(throttle, "x", true);
        throttle.WaitOf("x").ShouldBe(TimeSpan.FromMinutes(5));
        time.Advance(TimeSpan.FromMinutes(15));
        throttle.WaitOf("x").ShouldBe(TimeSpan.Zero);
        throttle.FreeLeft("x").ShouldBe(1);
    }

    [Fact]
    public async Task A_right_try_takes_back_nothing_but_itself()
    {
        var throttle = new Throttle(time, 4, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
        for (var n = 0; n < 4; n++)
        {
            await TryAsync(throttle, "x", true);
            await TryAsync(throttle, "x", false);
        }

        throttle.FreeLeft("x").ShouldBe(0);
        throttle.WaitOf("x").ShouldBeGreaterThan(TimeSpan.Zero);
    }

    [Fact]
    public async Task A_class_that_is_right_all_gets_in_at_once()
    {
        var throttle = new Throttle(time, 5, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
        var begun = Enumerable.Range(0, 30).Select(_ => throttle.BeginAsync("school", Stop)).ToList();
        begun.Count(b => b.IsCompleted).ShouldBe(5);
        foreach (var one in begun)
        {
            (await one).ShouldBe(TimeSpan.Zero);
            throttle.End("school", false);
        }

        throttle.FreeLeft("school").ShouldBe(5);
    }

    [Fact]
    public async Task A_flood_of_guesses_at_once_has_no_more_tries_than_one_after_the_other()
    {
        var throttle = new Throttle(time, 5, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
        var begun = Enumerable.Range(0, 100).Select(_ => throttle.BeginAsync("x", Stop)).ToList();
        var looked = 0;
        for (var n = 0; n < 5; n++)
        {
            (await begun[n]).ShouldBe(TimeSpan.Zero);
            looked++;
            throttle.End("x", true);
        }

        var waits = await Task.WhenAll(begun.Skip(5));
        waits.ShouldAllBe(w => w > TimeSpan.Zero);
        looked.ShouldBe(5);
    }

    [Fact]
    public async Task Who_leaves_the_queue_gives_up_no_place_of_anybody_else()
    {
        var throttle = new Throttle(time, 1, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
        (await throttle.BeginAsync("x", Stop)).ShouldBe(TimeSpan.Zero);
        using var leaves = new CancellationTokenSource();
        var (left, stays) = (throttle.BeginAsync("x", leaves.Token), throttle.BeginAsync("x", Stop));
        await leaves.CancelAsync();
        await Should.ThrowAsync<OperationCanceledException>(() => left);
        stays.IsCompleted.ShouldBeFalse();
        throttle.End("x", false);
        (await stays).ShouldBe(TimeSpan.Zero);
        throttle.End("x", false);
        (await throttle.BeginAsync("x", Stop)).ShouldBe(TimeSpan.Zero);
    }

    [Fact]
    public async Task Made_up_names_push_out_what_was_quiet_and_never_a_try_that_is_on()
    {
        var throttle = new Throttle(time, 1, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15), 100);
        (await throttle.BeginAsync("on", Stop)).ShouldBe(TimeSpan.Zero);
        for (var n = 0; n < 10_000; n++)
        {
            await TryAsync(throttle, "made-up-" + n, true);
        }

        var second = throttle.BeginAsync("on", Stop);
        second.IsCompleted.ShouldBeFalse();
        throttle.End("on", true);
        (await second).ShouldBeGreaterThan(TimeSpan.Zero);
    }

    private static async Task<TimeSpan> TryAsync(Throttle throttle, string name, bool wrong)
    {
        var wait = await throttle.BeginAsync(name, Stop);
        if (wait == TimeSpan.Zero)
        {
            throttle.End(name, wrong);
        }

        return wait;
    }
}
