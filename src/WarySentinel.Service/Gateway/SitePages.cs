using Microsoft.AspNetCore.Http.Features;
using WarySentinel.Core.Access;
using WarySentinel.Service.Access;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Gateway;

/// <summary>Fetches pages of the site through the gateway itself, so that they are what the visitor would get: decided, filtered, and told who asks.</summary>
public sealed class SitePages(IServiceProvider services, PolicyHolder policies, ServiceOptions options, TimeProvider time) : ISitePages
{
    private const int MostBytes = 4 << 20;
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(4);
    private static readonly string[] Passed = ["Cookie", "Accept-Language", "User-Agent", "Host"];
    private readonly Lazy<GatewayProxy> gateway = new(services.GetRequiredService<GatewayProxy>);

    /// <inheritdoc/>
    public async Task<SurroundingPage?> FetchAsync(HttpContext http, RequestIdentity identity, string address)
    {
        var (policy, now) = (policies.Current, identity.At ?? time.GetUtcNow());
        if (options.Origin.Length == 0 || !policy.TryResolve(address, now, out var request, out _) || !policy.Judge(identity.Visitor, request, now).Allowed)
        {
            return null;
        }

        using var late = CancellationTokenSource.CreateLinkedTokenSource(http.RequestAborted);
        late.CancelAfter(Longest);
        using var body = new Bounded();
        var inner = Inner(http, identity, address, body, late.Token);
        try
        {
            await gateway.Value.InvokeAsync(inner);
        }
        catch (Exception fault) when (fault is OperationCanceledException or IOException && !http.RequestAborted.IsCancellationRequested)
        {
            return null;
        }

        var type = inner.Response.GetTypedHeaders().ContentType;
        var isPage = inner.Response.StatusCode == StatusCodes.Status200OK && !body.IsOver && type?.MediaType == "text/html"
            && (type.Charset.Value?.Trim('"') ?? "utf-8").Equals("utf-8", StringComparison.OrdinalIgnoreCase)
            && inner.Response.Headers.ContentEncoding.Count == 0;
        return isPage ? new SurroundingPage(
            body.ToArray(), inner.Response.Headers.ContentSecurityPolicy.ToString(), [.. inner.Response.Headers.SetCookie]) : null;
    }

    private static DefaultHttpContext Inner(HttpContext http, RequestIdentity identity, string address, Stream body, CancellationToken stop)
    {
        var inner = new DefaultHttpContext { RequestServices = http.RequestServices, RequestAborted = stop };
        inner.Features.Set(identity);
        inner.Features.Set(WithinSite.Mark);
        inner.Features.Set<IHttpRequestBodyDetectionFeature>(new NoBody());
        inner.Features.Get<IHttpRequestFeature>()!.RawTarget = address;
        var mark = address.IndexOf('?', StringComparison.Ordinal);
        (inner.Request.Method, inner.Request.Scheme, inner.Request.Protocol) = (HttpMethods.Get, http.Request.Scheme, http.Request.Protocol);
        (inner.Request.Path, inner.Request.QueryString) = (
            PathString.FromUriComponent(mark < 0 ? address : address[..mark]), new QueryString(mark < 0 ? "" : address[mark..]));
        foreach (var name in Passed)
        {
            inner.Request.Headers[name] = http.Request.Headers[name];
        }

        inner.Request.Headers.Accept = "text/html";
        (inner.Connection.RemoteIpAddress, inner.Connection.RemotePort) = (http.Connection.RemoteIpAddress, http.Connection.RemotePort);
        inner.Response.Body = body;
        return inner;
    }

    private sealed class NoBody : IHttpRequestBodyDetectionFeature
    {
        public bool CanHaveBody => false;
    }

    /// <summary>Holds so much, and no more.</summary>
    private sealed class Bounded : Stream
    {
        private readonly MemoryStream held = new();

        public bool IsOver { get; private set; }

        public override bool CanRead => false;

        public override bool CanSeek => false;

        public override bool CanWrite => true;

        public override long Length => held.Length;

        public override long Position { get => held.Length; set => throw new NotSupportedException(); }

        public byte[] ToArray() => held.ToArray();

        public override void Write(ReadOnlySpan<byte> buffer)
        {
            IsOver |= held.Length + buffer.Length > MostBytes;
            if (!IsOver)
            {
                held.Write(buffer);
            }
        }

        public override void Write(byte[] buffer, int offset, int count) => Write(buffer.AsSpan(offset, count));

        public override Task WriteAsync(byte[] buffer, int offset, int count, CancellationToken cancellationToken)
        {
            Write(buffer.AsSpan(offset, count));
            return Task.CompletedTask;
        }

        public override ValueTask WriteAsync(ReadOnlyMemory<byte> buffer, CancellationToken cancellationToken = default)
        {
            Write(buffer.Span);
            return ValueTask.CompletedTask;
        }

        public override void Flush()
        {
            // Nothing waits.
        }

        public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        protected override void Dispose(bool disposing)
        {
            held.Dispose();
            base.Dispose(disposing);
        }
    }
}
