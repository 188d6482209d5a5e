namespace WarySentinel.Service.Nodes;

/// <summary>Wakes whoever waits, once, however often it is given before they wake.</summary>
public sealed class Nudge : IDisposable
{
    private readonly SemaphoreSlim given = new(0, 1);

    /// <summary>Wakes whoever waits, or the next who does.</summary>
    public void Give()
    {
        lock (given)
        {
            if (given.CurrentCount == 0)
            {
                given.Release();
            }
        }
    }

    /// <summary>Waits for it, for so long at most; whether it was given.</summary>
    public Task<bool> WaitAsync(TimeSpan most, CancellationToken cancellationToken) => given.WaitAsync(most, cancellationToken);

    /// <inheritdoc/>
    public void Dispose() => given.Dispose();
}
