namespace WarySentinel.Service.Gateway;

/// <summary>A stream of which the first bytes were read already.</summary>
internal sealed class Rejoined(byte[] first, Stream rest) : ReadingStream
{
    private int at;

    /// <inheritdoc/>
    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        if (at == first.Length)
        {
            return await rest.ReadAsync(buffer, cancellationToken);
        }

        var many = Math.Min(buffer.Length, first.Length - at);
        first.AsMemory(at, many).CopyTo(buffer);
        at += many;
        return many;
    }
}
