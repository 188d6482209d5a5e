using System.Collections.Concurrent;

namespace WarySentinel.Service.Gateway;

/// <summary>
/// Waits for the origin to begin its answers. One clock looks at all of them four times a second: a timer for each would be set three times a request,
/// and nearly none of them ever rings.
/// </summary>
internal sealed class OriginWaits : IDisposable
{
    private static readonly TimeSpan Tick = TimeSpan.FromMilliseconds(250);
    private readonly ConcurrentDictionary<OriginWait, bool> all = new();
    private readonly ConcurrentQueue<OriginWait> free = new();
    private readonly Timer clock;
    private readonly long wait;

    /// <summary>Waits of that length; they end up to a quarter of a second late.</summary>
    public OriginWaits(TimeSpan wait)
    {
        this.wait = (long)wait.TotalMilliseconds;
        clock = new Timer(_ => Look(), null, Tick, Tick);
    }

    /// <summary>Begins a wait.</summary>
    /// <param name="isAlone">Whether it serves this one request only: a body may hold on to it when the request has ended.</param>
    public OriginWait Begin(bool isAlone)
    {
        if (isAlone || !free.TryDequeue(out var begun))
        {
            begun = new OriginWait(wait);
            all[begun] = true;
        }

        begun.Again();
        return begun;
    }

    /// <summary>Ends a wait.</summary>
    /// <param name="ended">The wait.</param>
    /// <param name="isAlone">Whether it serves no other request.</param>
    public void End(OriginWait ended, bool isAlone)
    {
        if (ended.Leave() && !isAlone)
        {
            free.Enqueue(ended);
        }
        else
        {
            all.TryRemove(ended, out _);
        }
    }

    private void Look()
    {
        var now = Environment.TickCount64;
        foreach (var (one, _) in all)
        {
            one.Look(now);
        }
    }

    /// <inheritdoc/>
    public void Dispose() => clock.Dispose();
}

/// <summary>One wait for an origin to begin its answer.</summary>
/// <param name="wait">How long, in milliseconds.</param>
internal sealed class OriginWait(long wait)
{
    private readonly CancellationTokenSource source = new();
    private readonly Lock gate = new();
    private long until;

    /// <summary>Cancelled when it was waited for long enough.</summary>
    public CancellationToken Token => source.Token;

    /// <summary>Whether it was waited for long enough. Nothing takes that back.</summary>
    public bool IsOver { get; private set; }

    /// <summary>Waits from now on.</summary>
    public void Again() => Volatile.Write(ref until, Environment.TickCount64 + wait);

    /// <summary>Nobody waits any more.</summary>
    public void Rest() => Volatile.Write(ref until, 0);

    /// <summary>Its request has ended; true where it may serve another.</summary>
    public bool Leave()
    {
        lock (gate)
        {
            Rest();
            return !IsOver;
        }
    }

    /// <summary>Ends it, where it is time.</summary>
    public void Look(long now)
    {
        lock (gate)
        {
            if (Volatile.Read(ref until) is not (> 0 and var end) || now < end)
            {
                return;
            }

            Rest();
            IsOver = true;
        }

        // It serves no other request from here on: whom that stops is whoever waited, and what they do about it keeps nobody else waiting.
        _ = source.CancelAsync();
    }
}
