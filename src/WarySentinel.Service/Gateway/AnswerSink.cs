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
    private bool isDone;

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
        MostCopied = mostCopied;
    }

    /// <summary>Takes the page.</summary>
    public PipeWriter Writer { get; }

    private int MostCopied { get; }

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

        isDone = true;
        var copy = coded.Copy;
        if (!isAtOnce)
        {
            await response.BodyWriter.FlushAsync(stop);
            return copy;
        }

        if (!isKnown(FilteredAnswer.TagOf(copy)))
        {
            response.ContentLength = copy!.Length;
            await response.BodyWriter.WriteAsync(copy, stop);
        }

        return copy!.Length <= MostCopied ? copy : null;
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        if (!isDone)
        {
            // A body that broke off looks broken: its coding gets no end.
            await coded.DisposeAsync();
        }
    }

    /// <summary>Writes on, and keeps a copy up to a size.</summary>
    private sealed class CopiedStream(Stream? to, int most) : Stream
    {
        private MemoryStream? copy = new();

        public byte[]? Copy => copy?.ToArray();

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
            if (copy is not null && copy.Length + buffer.Length > most)
            {
                copy = null;
            }

            copy?.Write(buffer);
        }

        public override void Flush() => to?.Flush();

        public override Task FlushAsync(CancellationToken cancellationToken) => to?.FlushAsync(cancellationToken) ?? Task.CompletedTask;

        public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();
    }
}
