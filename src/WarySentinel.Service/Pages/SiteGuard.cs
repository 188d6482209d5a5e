using System.Text;
using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Pages;

/// <summary>What becomes of a broken request of a visitor: a page, never a stack trace, and never the guarded answer.</summary>
public sealed class SiteGuard(RequestDelegate next, SiteFaults faults)
{
    /// <summary>Runs one request.</summary>
    public async Task InvokeAsync(HttpContext http)
    {
        try
        {
            await next(http);
        }
        catch (Exception fault)
        {
            await faults.AnswerAsync(http, fault);
        }
    }
}

/// <summary>Answers requests of visitors that broke, whoever caught what broke.</summary>
public sealed class SiteFaults(Refusals refusals, ILogger<SiteFaults> log)
{
    /// <summary>Answers one request.</summary>
    public async Task AnswerAsync(HttpContext http, Exception fault)
    {
        if (http.RequestAborted.IsCancellationRequested)
        {
            // Whoever asked has left; whatever breaks by that is nobody's fault.
            http.Abort();
            return;
        }

        var status = StatusOf(fault);
        Log(http, fault, status);
        if (http.Response.HasStarted)
        {
            http.Abort();
            return;
        }

        http.Response.Clear();
        await TellAsync(http, status);
    }

    private void Log(HttpContext http, Exception fault, int status)
    {
        if (status == StatusCodes.Status507InsufficientStorage)
        {
            log.LogError("Nothing can be stored: the disk is full ({Method} {Path})", http.Request.Method, http.Request.Path);
        }
        else if (status == StatusCodes.Status503ServiceUnavailable)
        {
            log.LogError("The database cannot be reached ({Method} {Path}): {Reason}", http.Request.Method, http.Request.Path,
                fault.GetBaseException().Message);
        }
        else if (status >= 500)
        {
            log.LogError(fault, "The request {Method} {Path} broke ({Id})", http.Request.Method, http.Request.Path, http.TraceIdentifier);
        }
    }

    /// <summary>The page that says so; a plain line where even that cannot be made.</summary>
    private async Task TellAsync(HttpContext http, int status)
    {
        try
        {
            await refusals.FailedAsync(http, status);
        }
        catch (Exception again) when (!http.RequestAborted.IsCancellationRequested && !http.Response.HasStarted)
        {
            log.LogError(again, "The page of a broken request broke too ({Id})", http.TraceIdentifier);
            http.Response.Clear();
            await HostGuard.PlainAsync(http, status, "web.broken");
        }
    }

    /// <summary>What a visitor sent is theirs to mend (4xx); what broke here is ours (5xx).</summary>
    private static int StatusOf(Exception fault)
    {
        // Whoever reads a form may wrap what was wrong with it.
        for (var at = fault; at is not null; at = at.InnerException)
        {
            var status = at switch
            {
                BadHttpRequestException bad => bad.StatusCode,
                // Forms with too many keys, broken parts, or text that is none.
                InvalidDataException or DecoderFallbackException or AntiforgeryValidationException { InnerException: null } => StatusCodes.Status400BadRequest,
                InvalidOperationException charset when AdminGuard.IsAboutCharset(charset) => StatusCodes.Status400BadRequest,
                IOException unread when unread.Message.StartsWith("Unexpected end of Stream", StringComparison.Ordinal) => StatusCodes.Status400BadRequest,
                _ => 0,
            };
            if (status > 0)
            {
                return status;
            }
        }

        return Store.IsFull(fault) ? StatusCodes.Status507InsufficientStorage : AdminGuard.IsAboutText(fault) ? StatusCodes.Status400BadRequest
            : Store.IsSilent(fault) ? StatusCodes.Status503ServiceUnavailable : StatusCodes.Status500InternalServerError;
    }
}
