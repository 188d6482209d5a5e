using System.Diagnostics;

namespace WarySentinel.Service.Sweep;

/// <summary>
/// Bytes that can be read for a while, and then no more: a packed file that was made to swell takes for ever inside a library that nobody can stop. Throws
/// <see cref="TimeoutException"/> then.
/// </summary>
internal sealed class ImpatientStream(byte[] bytes, TimeSpan longest) : MemoryStream(bytes, false)
{
    private readonly long begun = Stopwatch.GetTimestamp();

    /// <inheritdoc/>
    public override int Read(Span<byte> buffer)
    {
        Check();
        return base.Read(buffer);
    }

    /// <inheritdoc/>
    public override int Read(byte[] buffer, int offset, int count)
    {
        Check();
        return base.Read(buffer, offset, count);
    }

    /// <inheritdoc/>
    public override int ReadByte()
    {
        Check();
        return base.ReadByte();
    }

    private void Check()
    {
        if (Stopwatch.GetElapsedTime(begun) > longest)
        {
            throw new TimeoutException();
        }
    }
}
