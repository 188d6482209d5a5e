namespace WarySentinel.Service.Gateway;

/// <summary>The body of a request on its way to the origin; somebody is told of each piece.</summary>
internal sealed class WatchedBody(Stream body, Action moved) : ReadingStream
{
    /// <inheritdoc/>
    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        var many = await body.ReadAsync(buffer, cancellationToken);
        moved();
        return many;
    }
}
