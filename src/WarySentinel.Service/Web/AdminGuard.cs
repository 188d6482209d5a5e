using System.Text.Json;
using Microsoft.AspNetCore.Http.Features;
using WarySentinel.Core;
using WarySentinel.Storage;

namespace WarySentinel.Service.Web;

/// <summary>What every answer of the admin port bears, and what becomes of a broken call: a problem, never a stack trace.</summary>
public sealed class AdminGuard(RequestDelegate next, ILogger<AdminGuard> log)
{
    /// <summary>Runs one request.</summary>
    public async Task InvokeAsync(HttpContext http)
    {
        Dress(http);
        try
        {
            await next(http);
            if (!http.Response.HasStarted && http.Response is
                {
                    ContentType: null,
                    StatusCode: StatusCodes.Status413PayloadTooLarge or StatusCodes.Status408RequestTimeout or StatusCodes.Status400BadRequest
                } response)
            {
                // Where the framework reads the body it says no word about it.
                await ProblemOf(http, new BadHttpRequestException("", response.StatusCode)).ToHttp().ExecuteAsync(http);
            }
        }
        catch (Exception fault) when (!http.Response.HasStarted && Known(http, fault) is { } problem)
        {
            await problem.ToHttp().ExecuteAsync(http);
        }
        catch (Exception) when (http.RequestAborted.IsCancellationRequested)
        {
            http.Abort();
        }
        catch (Exception fault) when (fault is not OperationCanceledException && !IsOver(fault) && !http.Response.HasStarted)
        {
            log.LogError(fault, "The call {Method} {Path} broke ({Id})", http.Request.Method, http.Request.Path, http.TraceIdentifier);
            await BrokenAsync(http);
        }
    }

    /// <summary>Whether the service has ended meanwhile, as one that could not start does: why is told elsewhere.</summary>
    private static bool IsOver(Exception fault) => fault is ObjectDisposedException { ObjectName: nameof(IServiceProvider) };

    private static void Dress(HttpContext http)
    {
        var headers = http.Response.Headers;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "no-referrer";
        headers.XFrameOptions = "DENY";
        headers.ContentSecurityPolicy =
            "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; frame-src http: https:; "
            + "base-uri 'none'; form-action 'self'; frame-ancestors 'none'";
        if (http.Request.Path.StartsWithSegments("/api"))
        {
            headers.CacheControl = "no-store";
        }
    }

    /// <summary>What a caller is told of a fault that is not ours; null of any other.</summary>
    private Problem? Known(HttpContext http, Exception fault)
    {
        switch (fault)
        {
            case BadHttpRequestException bad:
                return ProblemOf(http, bad);
            case not null when Store.IsFull(fault):
                log.LogError("Nothing can be stored: the disk is full ({Method} {Path})", http.Request.Method, http.Request.Path);
                return Problem.Of(ProblemKind.Full, "storage-full");
            case CommitUnsureException:
                log.LogError("The database went away while it was storing ({Method} {Path})", http.Request.Method, http.Request.Path);
                return Problem.Of(ProblemKind.Silent, "unsure");
            case not null when Store.IsSilent(fault) && !http.RequestAborted.IsCancellationRequested:
                log.LogError("The database cannot be reached ({Method} {Path}): {Reason}", http.Request.Method, http.Request.Path,
                    fault.GetBaseException().Message);
                return Problem.Of(ProblemKind.Silent, "store-silent");
            case InvalidOperationException odd when IsAboutCharset(odd):
                return Problem.In("body", "body-unreadable", http.Request.ContentType);
            default:
                return IsAboutText(fault) ? Problem.In("request", "request-form", Wording.Of("web.zero")) : null;
        }
    }

    private static Task BrokenAsync(HttpContext http)
    {
        var problem = Problem.Of(ProblemKind.Broken, "internal").ToHttp();
        problem.ProblemDetails.Extensions["id"] = http.TraceIdentifier;
        return problem.ExecuteAsync(http);
    }

    /// <summary>What is wrong with a body that cannot be read.</summary>
    private static Problem ProblemOf(HttpContext http, BadHttpRequestException bad)
    {
        var most = http.Features.Get<IHttpMaxRequestBodySizeFeature>()?.MaxRequestBodySize ?? Bodies.Json;
        var text = bad.InnerException is JsonException json ? $"{json.Path} ({json.LineNumber + 1}:{json.BytePositionInLine + 1})" : bad.Message;
        return bad.StatusCode switch
        {
            StatusCodes.Status413PayloadTooLarge => Admission.TooLarge(most),
            StatusCodes.Status408RequestTimeout => Problem.Of(ProblemKind.Slow, "body-slow"),
            _ => Problem.In("body", "body-unreadable", text),
        };
    }

    /// <summary>A body in an encoding that there is not; the framework has no other way to say so.</summary>
    internal static bool IsAboutCharset(InvalidOperationException fault) => fault.Message.Contains("charset", StringComparison.Ordinal);

    /// <summary>PostgreSQL takes no zero character in a text (SQLSTATE 22021).</summary>
    internal static bool IsAboutText(Exception? fault) =>
        (fault as Npgsql.PostgresException ?? fault?.InnerException as Npgsql.PostgresException)?.SqlState == "22021";
}
