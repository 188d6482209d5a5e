using System.Text.Json;
using WarySentinel.Core;
using WarySentinel.Service.Forms;

namespace WarySentinel.Service;

/// <summary>What every answer of the admin port bears, and what becomes of a broken call: a problem, never a stack trace.</summary>
public sealed class AdminGuard(RequestDelegate next, ILogger<AdminGuard> log)
{
    /// <summary>Runs one request.</summary>
    public async Task InvokeAsync(HttpContext http)
    {
        var headers = http.Response.Headers;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "no-referrer";
        headers.XFrameOptions = "DENY";
        headers.ContentSecurityPolicy = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; frame-src http: https:; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";
        var isApi = http.Request.Path.StartsWithSegments("/api");
        if (isApi)
        {
            headers.CacheControl = "no-store";
        }

        try
        {
            await next(http);
        }
        catch (BadHttpRequestException bad) when (!http.Response.HasStarted)
        {
            var text = bad.InnerException is JsonException json ? $"{json.Path} ({json.LineNumber + 1}:{json.BytePositionInLine + 1})" : bad.Message;
            var problem = bad.StatusCode == StatusCodes.Status413PayloadTooLarge
                ? Problem.Of(ProblemKind.TooLarge, "body-too-large", 256)
                : Problem.In("body", "body-unreadable", text);
            await problem.ToHttp().ExecuteAsync(http);
        }
        catch (Exception fault) when (fault is not OperationCanceledException && !http.Response.HasStarted)
        {
            log.LogError(fault, "The call {Method} {Path} broke ({Id})", http.Request.Method, http.Request.Path, http.TraceIdentifier);
            http.Response.StatusCode = StatusCodes.Status500InternalServerError;
            await http.Response.WriteAsJsonAsync(
                new { type = "urn:wary-sentinel:problem:internal", title = "Broken", status = 500, detail = Words.Of("problem.internal"), code = "internal", id = http.TraceIdentifier },
                options: null, contentType: "application/problem+json");
        }
    }
}

/// <summary>What becomes of a broken request of a visitor: a page, never a stack trace, and never the guarded answer.</summary>
public sealed class SiteGuard(RequestDelegate next, Refusals refusals, ILogger<SiteGuard> log)
{
    /// <summary>Runs one request.</summary>
    public async Task InvokeAsync(HttpContext http)
    {
        try
        {
            await next(http);
        }
        catch (Exception fault) when (!http.RequestAborted.IsCancellationRequested)
        {
            var status = (fault as BadHttpRequestException)?.StatusCode ?? 500;
            if (status >= 500)
            {
                log.LogError(fault, "The request {Method} {Path} broke ({Id})", http.Request.Method, http.Request.Path, http.TraceIdentifier);
            }

            if (http.Response.HasStarted)
            {
                http.Abort();
                return;
            }

            http.Response.Clear();
            await refusals.OriginFailedAsync(http, status);
        }
        catch (OperationCanceledException)
        {
            http.Abort();
        }
    }
}
