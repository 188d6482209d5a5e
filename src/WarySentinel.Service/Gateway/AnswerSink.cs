using System.Buffers;
using System.IO.Compression;
using System.IO.Pipelines;

namespace WarySentinel.Service.Gateway;

/// <summary>Where a filtered page goes: out at once, or out when it is whole; in the coding in which it came; and beside into the memory.</summary>
internal sealed class AnswerSink : IAsyncDisposable
{
    private readonly HttpResponse response;
    private readonly bool isAtOnce;
    private readonly CopiedStream coded;
    private readonly Stream? packed;
    private readonly int mostCopied;

    /// <summary>A sink of an answer.</summary>
    /// <param name="response">The answer.</param>
    /// <param name="coding">The coding; behind <c>packed</c>, of a file that is packed itself.</param>
    /// <param name="isAtOnce">Whether it goes out when it is whole.</param>
    /// <param name="mostCopied">So many bytes are copied at most.</param>
    public AnswerSink(HttpResponse response, string? coding, bool isAtOnce, int mostCopied)
    {
        (this.response, this.isAtOnce) = (response, isAtOnce);
        coded = new CopiedStream(isAtOnce ? null : response.BodyWriter.AsStream(true), isAtOnce ? int.MaxValue : mostCopied);
        var isFile = coding?.StartsWith("packed", StringComparison.Ordinal) == true;
        packed = Codings.Coded(coded, isFile ? coding!["packed ".Length..] : coding);
        packed = isFile ? new GZipStream(packed ?? coded, CompressionLevel.Fastest) : packed;
        Writer = PipeWriter.Create(packed ?? coded, new StreamPipeWriterOptions(leaveOpen: true));
        this.mostCopied = mostCopied;
    }

    /// <summary>Takes the page.</summary>
    public PipeWriter Writer { get; }

    /// <summary>Lets go of what was written, where it goes out at once.</summary>
    public async ValueTask FlushAsync(CancellationToken stop)
    {
        if (!isAtOnce)
        {
            await Writer.FlushAsync(stop);
        }
    }

    /// <summary>Nothing follows. Gives what went out, where it is not too much.</summary>
    /// <param name="isKnown">Told the tag of what is about to go out; true where it need not.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<byte[]?> CompleteAsync(Func<string, bool> isKnown, CancellationToken stop)
    {
        await Writer.CompleteAsync();
        if (packed is not null)
        {
            await packed.DisposeAsync();
        }

        if (!isAtOnce)
        {
            await response.BodyWriter.FlushAsync(stop);
        }
        else if (!isKnown(FilteredAnswer.TagOf(coded.Copy!.Value.Span)))
        {
            response.ContentLength = coded.Copy.Value.Length;
            await response.BodyWriter.WriteAsync(coded.Copy.Value, stop);
        }

        return coded.Copy is { } copy && copy.Length <= mostCopied ? copy.ToArray() : null;
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        // A body that broke off looks broken: its coding gets no end.
        coded.Release();
        await coded.DisposeAsync();
    }

    /// <summary>
    /// Writes on, and keeps a copy up to a size. The copy stands in borrowed bytes: pages of usual size made anew for each visitor would go to the heap of
    /// large things, and have all of it collected over and over.
    /// </summary>
    private sealed class CopiedStream(Stream? to, int most) : Stream
    {
        private byte[] copy = most > 0 ? ArrayPool<byte>.Shared.Rent(64 << 10) : [];
        private int length = most > 0 ? 0 : -1;

        /// <summary>What was written; null where it is more than is kept.</summary>
        public ReadOnlyMemory<byte>? Copy => length < 0 ? null : copy.AsMemory(0, length);

        public override bool CanRead => false;

        public override bool CanSeek => false;

        public override bool CanWrite => true;

        public override long Length => throw new NotSupportedException();

        public override long Position { get => throw new NotSupportedException(); set => throw new NotSupportedException(); }

        public override void Write(byte[] buffer, int offset, int count) => Write(buffer.AsSpan(offset, count));

        public override void Write(ReadOnlySpan<byte> buffer)
        {
            Keep(buffer);
            to?.Write(buffer);
        }

        public override async ValueTask WriteAsync(ReadOnlyMemory<byte> buffer, CancellationToken cancellationToken = default)
        {
            Keep(buffer.Span);
            if (to is not null)
            {
                await to.WriteAsync(buffer, cancellationToken);
            }
        }

        private void Keep(ReadOnlySpan<byte> buffer)
        {
            if (length < 0 || length + buffer.Length > most)
            {
                length = -1;
                return;
            }

            if (length + buffer.Length > copy.Length)
            {
                var larger = ArrayPool<byte>.Shared.Rent(Math.Max(length + buffer.Length, copy.Length * 2));
                copy.AsSpan(0, length).CopyTo(larger);
                Return();
                copy = larger;
            }

            buffer.CopyTo(copy.AsSpan(length));
            length += buffer.Length;
        }

        /// <summary>Gives the borrowed bytes back. A coding ends the stream before they are read: that alone does not.</summary>
        public void Release()
        {
            length = -1;
            Return();
        }

        private void Return()
        {
            if (copy.Length > 0)
            {
                ArrayPool<byte>.Shared.Return(copy);
                copy = [];
            }
        }

        public override void Flush() => to?.Flush();

        public override Task FlushAsync(CancellationToken cancellationToken) => to?.FlushAsync(cancellationToken) ?? Task.CompletedTask;

        public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();
    }
}
