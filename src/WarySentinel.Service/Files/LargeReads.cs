using System.IO.Pipelines;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.Win32.SafeHandles;

namespace WarySentinel.Service.Files;

/// <summary>
/// Sends files by large reads straight into the connection's own buffers. The server's own way copies them 16 KB at a time, which costs a large download more
/// than half of its pace (docs/performance.md).
/// </summary>
/// <param name="inner">The body as it is.</param>
internal sealed class LargeReads(IHttpResponseBodyFeature inner) : IHttpResponseBodyFeature
{
    private const int AtOnce = 256 * 1024;

    /// <inheritdoc/>
    public Stream Stream => inner.Stream;

    /// <inheritdoc/>
    public PipeWriter Writer => inner.Writer;

    /// <summary>Has the files of one answer sent so.</summary>
    public static void Use(HttpContext http) =>
        http.Features.Set<IHttpResponseBodyFeature>(new LargeReads(http.Features.GetRequiredFeature<IHttpResponseBodyFeature>()));

    /// <inheritdoc/>
    public async Task SendFileAsync(string path, long offset, long? count, CancellationToken cancellationToken = default)
    {
        using SafeFileHandle file = File.OpenHandle(path, options: FileOptions.Asynchronous | FileOptions.SequentialScan);
        for (var left = count ?? RandomAccess.GetLength(file) - offset; left > 0;)
        {
            var memory = Writer.GetMemory((int)Math.Min(AtOnce, left));
            var read = await RandomAccess.ReadAsync(file, memory[..(int)Math.Min(memory.Length, left)], offset, cancellationToken);
            if (read == 0)
            {
                // It was cut short while it was sent: the length that was said is not kept, and the connection breaks off.
                break;
            }

            Writer.Advance(read);
            (offset, left) = (offset + read, left - read);
            if ((await Writer.FlushAsync(cancellationToken)).IsCompleted)
            {
                break;
            }
        }
    }

    /// <inheritdoc/>
    public Task StartAsync(CancellationToken cancellationToken = default) => inner.StartAsync(cancellationToken);

    /// <inheritdoc/>
    public Task CompleteAsync() => inner.CompleteAsync();

    /// <inheritdoc/>
    public void DisableBuffering() => inner.DisableBuffering();
}
