using System.Buffers;
using System.IO.Compression;
using System.IO.Hashing;
using System.IO.Pipelines;
using System.Text;
using Microsoft.Extensions.Primitives;
using Microsoft.Net.Http.Headers;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Markup;
using WarySentinel.Service.Entries;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Gateway;

/// <summary>Writes an answer of the origin without what its visitor may not know of.</summary>
internal sealed class FilteredAnswer(ServiceOptions options, CommonPages pages, PageMemory memory, ILogger log)
{
    /// <summary>A page of which the origin says that it is no longer than this is written when it is whole: it gets a tag of its own.</summary>
    private const int MostAtOnce = 256 << 10;

    /// <summary>A page that goes out larger is not remembered.</summary>
    private const int MostRemembered = 512 << 10;

    private readonly IReadOnlyList<(byte[] From, byte[] To)> turned = OwnAddress.SpellingsFor(options);

    /// <summary>An answer on its way.</summary>
    private sealed record Way(
        HttpContext Http, ProxiedRequest Passage, AnswerKind Kind, string? Coding, IReadOnlyList<EntryRule> Rules, bool IsAtOnce, CancellationToken Stop)
    {
        public HttpResponse Response => Http.Response;

        /// <summary>Whether the bytes that go out are those that came, where nothing is hidden.</summary>
        public bool IsInItsBytes { get; init; } = Coding is null && !Kind.IsZipped;
    }

    /// <summary>Reads the body and writes it filtered.</summary>
    public async Task WriteAsync(HttpContext http, ProxiedRequest passage, HttpContent content, AnswerKind kind, CancellationToken stop)
    {
        var response = http.Response;
        var body = await Codings.DecodedAsync(content, stop);
        if (body is null || response.StatusCode == StatusCodes.Status206PartialContent)
        {
            // It cannot be read, so it cannot be known to be clean: closed.
            passage.CannotBeJudged = true;
            return;
        }

        var length = content.Headers.ContentLength;
        response.Headers.Remove(HeaderNames.ContentLength);
        // The origin was asked for no coding that the visitor does not take: it goes out as it came.
        var coding = content.Headers.ContentEncoding.LastOrDefault()?.ToLowerInvariant() is { } said and not "identity" ? said : null;
        response.Headers.ContentEncoding = coding is null ? StringValues.Empty : new StringValues(coding);
        response.Headers.Remove(HeaderNames.ContentMD5);
        response.Headers.Remove("Digest");
        response.Headers.Remove("Accept-Ranges");
        await using (body)
        {
            var isAtOnce = length <= MostAtOnce && HttpMethods.IsGet(http.Request.Method);
            await FilterAsync(new Way(http, passage, kind, coding, passage.Rules, isAtOnce, stop), body);
        }
    }

    /// <summary>Reads the body and writes it with the site's address in place of the origin's; false where its coding is not read.</summary>
    public async Task<bool> TurnAsync(HttpContext http, ProxiedRequest passage, HttpContent content, CancellationToken stop)
    {
        if (OwnAddress.For(turned) is not { } own || await Codings.DecodedAsync(content, stop) is not { } body)
        {
            return false;
        }

        // It is made of what the origin's tag names, and of nothing else: the same, but not in its bytes (RFC 9110 §8.8.1).
        var headers = http.Response.Headers;
        headers.ContentLength = null;
        headers.Remove(HeaderNames.AcceptRanges);
        headers.Remove(HeaderNames.ContentMD5);
        headers.Remove("Digest");
        if (headers.ETag.ToString() is ['"', ..] tag)
        {
            headers.ETag = "W/" + tag;
        }

        await using (body)
        {
            var coding = content.Headers.ContentEncoding.LastOrDefault()?.ToLowerInvariant() is { } said and not "identity" ? said : null;
            headers.ContentEncoding = coding is null ? StringValues.Empty : new StringValues(coding);
            await using var sink = new AnswerSink(http.Response, coding, false, 0);
            var buffer = new byte[32 * 1024];
            int read;
            while ((read = await body.ReadAsync(buffer, stop)) > 0)
            {
                sink.Writer.Write(own.Turn(buffer.AsSpan(0, read), false));
                await sink.FlushAsync(stop);
            }

            sink.Writer.Write(own.Turn([], true));
            await sink.CompleteAsync(_ => false, stop);
        }

        if (!own.HasTurned && passage.Tag is { } whole && http.Response.StatusCode == StatusCodes.Status200OK)
        {
            pages.Note(passage.Path.SentWithQuery, passage.Policy.StampAt(passage.Now), whole);
        }

        return true;
    }

    private async Task FilterAsync(Way way, Stream body)
    {
        var (kind, stop) = (way.Kind, way.Stop);
        if (kind.IsZipped)
        {
            (body, way) = await UnzippedAsync(way, body);
        }

        var buffer = ArrayPool<byte>.Shared.Rent(32 * 1024);
        try
        {
            var read = await body.ReadAtLeastAsync(buffer.AsMemory(0, 4), 4, false, stop);
            var encoding = Charset.ByMark(buffer.AsSpan(0, read)) ?? kind.Encoding;
            if (encoding.CodePage != Encoding.UTF8.CodePage && (kind.IsData || !(kind with { Encoding = encoding }).IsPlain))
            {
                (body, read) = (Encoding.CreateTranscodingStream(new Rejoined(buffer.AsSpan(0, read).ToArray(), body), encoding, new UTF8Encoding(false)), 0);
                way = way with { IsInItsBytes = false };
                way.Response.ContentType = (way.Response.ContentType ?? "text/html").Split(';')[0] + "; charset=utf-8";
                encoding = Encoding.UTF8;
            }

            var now = way.Passage.Now;
            var decider = new PageDecider(
                way.Passage, way.Http.Request, options, now, kind.Reading is Reading.Xml or Reading.Lines, encoding, () => TooLarge(way.Passage))
            { KeepsAnswers = way.Passage.Origin is not null };
            kind = kind.SeenAs(buffer.AsSpan(0, read), way.Rules);
            if (kind.IsData)
            {
                await WriteDataAsync(way with { Kind = kind }, decider, new Rejoined(buffer.AsSpan(0, read).ToArray(), body), now);
                return;
            }

            await StreamAsync(way, decider, kind.NewFilter(decider, encoding, EntryBook.ToTaught(way.Rules)), (buffer, read), body, now);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    /// <summary>A list that comes as a packed file. Some origins unpack such files on the way, and say so by a coding.</summary>
    private static async Task<(Stream Body, Way Way)> UnzippedAsync(Way way, Stream body)
    {
        var first = new byte[2];
        var many = await body.ReadAtLeastAsync(first, 2, false, way.Stop);
        body = new Rejoined(first[..many], body);
        return first is [0x1F, 0x8B] ? (new GZipStream(body, CompressionMode.Decompress), way with { Coding = "packed " + way.Coding, IsAtOnce = false })
            : (body, way);
    }

    private async Task StreamAsync(Way way, PageDecider decider, MarkupFilter filter, (byte[] Bytes, int Read) buffer, Stream body, DateTimeOffset now)
    {
        var stop = way.Stop;
        var own = OwnAddress.For(turned);
        await using var sink = new AnswerSink(way.Response, way.Coding, way.IsAtOnce, way.Passage.Origin is null ? 0 : MostRemembered);
        var read = buffer.Read;
        do
        {
            Put(buffer.Bytes.AsSpan(0, read), false);
            await sink.FlushAsync(stop);
        }
        while ((read = await body.ReadAsync(buffer.Bytes, stop)) > 0);

        Put([], true);
        if (own is { HasTurned: true })
        {
            decider.Turned();
        }

        await EndAsync(way, decider, sink, now);

        void Put(ReadOnlySpan<byte> piece, bool last) => filter.Write(own is null ? piece : own.Turn(piece, last), last, sink.Writer);
    }

    /// <summary>Data is read as a whole: where an entry ends is known at its end.</summary>
    private async Task WriteDataAsync(Way way, PageDecider decider, Stream body, DateTimeOffset now)
    {
        var rules = way.Rules.Select(r => r.Data).OfType<JsonEntries>().Where(d => (d.Behind is null) == (way.Kind.Reading == Reading.Json)).ToList();
        using var whole = new MemoryStream();
        var buffer = new byte[64 * 1024];
        int read;
        while ((read = await body.ReadAsync(buffer, way.Stop)) > 0 && whole.Length <= JsonSieve.Most)
        {
            whole.Write(buffer, 0, read);
        }

        var text = new ReadOnlyMemory<byte>(whole.GetBuffer(), 0, (int)whole.Length);
        if (OwnAddress.For(turned) is { } own)
        {
            text = own.Turn(text.Span, true).ToArray();
        }

        var output = new ArrayBufferWriter<byte>(text.Length + 1);
        if (whole.Length > JsonSieve.Most || !(way.Kind.Reading == Reading.Json ? JsonSieve.TrySift(text, rules, decider, output)
            : JsonSieve.TrySiftScript(text, rules, decider, output)))
        {
            log.LogWarning("The data at {Path} cannot be read by the rules for it, and is left out", way.Passage.Path.Sent);
            way.Passage.CannotBeJudged = true;
            return;
        }

        await using var sink = new AnswerSink(way.Response, way.Coding, true, way.Passage.Origin is null ? 0 : MostRemembered);
        sink.Writer.Write(output.WrittenSpan);
        await EndAsync(way, decider, sink, now);
    }

    private async Task EndAsync(Way way, PageDecider decider, AnswerSink sink, DateTimeOffset now)
    {
        var (passage, response) = (way.Passage, way.Response);
        var stamp = passage.Policy.StampAt(now);
        var isCommon = decider.IsSameForAll;
        var isWhole = response.StatusCode == StatusCodes.Status200OK && HttpMethods.IsGet(way.Http.Request.Method);
        var isAsItCame = isCommon && way.IsInItsBytes && passage.Said is not null;
        var body = await sink.CompleteAsync(
            tag => isWhole && (isAsItCame ? SayAgain(way.Http, passage) : SetTag(way.Http, passage, tag)), way.Stop);
        if (isCommon && isWhole && passage is { Tag: { } tag, MayBeCommon: true })
        {
            pages.Note(passage.Path.SentWithQuery, stamp, tag);
        }
        else if (isWhole && body is not null && decider.CanBeRemembered && passage.Origin is { Tag.Length: > 0 } origin && !way.Kind.IsZipped)
        {
            memory.Note(passage, way.Http.Request, new PageMemory.Page(
                new WeakReference(stamp), origin.Tag, way.Coding, origin.IsForAnybody, origin.Headers, [new([.. decider.Answers], body, TagOf(body))]));
        }
    }

    /// <summary>Writes a page that is remembered.</summary>
    public static async Task WriteAsync(HttpContext http, ProxiedRequest passage, PageMemory.Variant page, CancellationToken stop)
    {
        if (SetTag(http, passage, page.Tag))
        {
            return;
        }

        http.Response.ContentLength = page.Body.Length;
        await http.Response.BodyWriter.WriteAsync(page.Body, stop);
    }

    /// <summary>A page that is the same for everybody goes out as the origin sent it, with what it said of caches. True where the browser has it.</summary>
    private static bool SayAgain(HttpContext http, ProxiedRequest passage)
    {
        if (http.Response.HasStarted)
        {
            return false;
        }

        CommonPages.SayAgain(passage, http.Response.Headers);
        return http.Response.Headers.ETag.ToString() is { Length: > 0 } tag && IsKnown(http, passage, tag);
    }

    /// <summary>
    /// Puts a tag of our own on a page that differs from visitor to visitor: it is kept by whoever got it, and asked for again before it is shown. True where
    /// they have that very page: the answer is 304 (RFC 9110 §13.1.2). What is guarded itself is kept by nobody.
    /// </summary>
    private static bool SetTag(HttpContext http, ProxiedRequest passage, string tag)
    {
        if (passage.Guarded || http.Response.HasStarted)
        {
            return false;
        }

        http.Response.Headers.ETag = tag;
        http.Response.Headers.CacheControl = "private, no-cache";
        return IsKnown(http, passage, tag);
    }

    private static bool IsKnown(HttpContext http, ProxiedRequest passage, string tag)
    {
        if (passage.AskedTags is not { Count: > 0 } asked || !asked.SelectMany(a => (a ?? "").Split(',')).Any(a => a.Trim() == tag))
        {
            return false;
        }

        http.Response.StatusCode = StatusCodes.Status304NotModified;
        http.Response.Headers.Remove(HeaderNames.ContentType);
        http.Response.Headers.Remove(HeaderNames.ContentEncoding);
        return true;
    }

    /// <summary>A tag made of the bytes that go out.</summary>
    internal static string TagOf(ReadOnlySpan<byte> body) => $"\"w{Convert.ToHexStringLower(XxHash128.Hash(body))}\"";

    private void TooLarge(ProxiedRequest passage) => log.LogWarning("Something in {Path} is too large to be judged, and is left out", passage.Path.Sent);
}
