using Yarp.ReverseProxy.Forwarder;

namespace WarySentinel.Service.Gateway;

/// <summary>One request on its way to the origin, and the answer on its way back.</summary>
internal sealed class Passing(GatewayTransformer gateway, ProxiedRequest passage) : HttpTransformer
{
    /// <inheritdoc/>
    public override ValueTask TransformRequestAsync(
        HttpContext httpContext, HttpRequestMessage proxyRequest, string destinationPrefix, CancellationToken cancellationToken)
    {
        var copied = base.TransformRequestAsync(httpContext, proxyRequest, destinationPrefix, cancellationToken);
        if (!copied.IsCompletedSuccessfully)
        {
            return AfterAsync(copied);
        }

        gateway.TurnRequest(httpContext, proxyRequest, destinationPrefix, passage);
        return ValueTask.CompletedTask;

        async ValueTask AfterAsync(ValueTask copying)
        {
            await copying;
            gateway.TurnRequest(httpContext, proxyRequest, destinationPrefix, passage);
        }
    }

    /// <inheritdoc/>
    public override ValueTask<bool> TransformResponseAsync(
        HttpContext httpContext, HttpResponseMessage? proxyResponse, CancellationToken cancellationToken)
    {
        if (proxyResponse is null)
        {
            return ValueTask.FromResult(false);
        }

        passage.Begin();
        var copied = base.TransformResponseAsync(httpContext, proxyResponse, cancellationToken);
        return copied.IsCompletedSuccessfully
            ? copied.Result ? gateway.TurnResponseAsync(httpContext, proxyResponse, passage, cancellationToken) : ValueTask.FromResult(false)
            : AfterAsync(copied);

        async ValueTask<bool> AfterAsync(ValueTask<bool> copying) =>
            await copying && await gateway.TurnResponseAsync(httpContext, proxyResponse, passage, cancellationToken);
    }
}
