using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Core;

namespace WarySentinel.Service.Web;

/// <summary>Problems as the API answers them (RFC 9457).</summary>
public static class Problems
{
    /// <summary>The problem with its status, its stable code and its located faults.</summary>
    public static ProblemHttpResult ToHttp(this Problem problem) => TypedResults.Problem(
        detail: problem.Detail.ToReader(),
        statusCode: StatusOf(problem),
        title: Wording.Of("problem-kind." + problem.Kind).ToReader(),
        type: "urn:wary-sentinel:problem:" + problem.Code,
        extensions: new Dictionary<string, object?> { ["code"] = problem.Code, ["errors"] = problem.Faults.ToReader() });

    /// <summary>The status of a problem.</summary>
    public static int StatusOf(Problem problem) => problem.Code switch
    {
        "unauthenticated" or "wrong-credentials" => StatusCodes.Status401Unauthorized,
        "precondition" => StatusCodes.Status428PreconditionRequired,
        "busy" => StatusCodes.Status503ServiceUnavailable,
        _ => problem.Kind switch
        {
            ProblemKind.NotFound => StatusCodes.Status404NotFound,
            ProblemKind.Conflict => StatusCodes.Status409Conflict,
            ProblemKind.Stale => StatusCodes.Status412PreconditionFailed,
            ProblemKind.Forbidden => StatusCodes.Status403Forbidden,
            ProblemKind.TooMany => StatusCodes.Status429TooManyRequests,
            ProblemKind.TooLarge => StatusCodes.Status413PayloadTooLarge,
            ProblemKind.Slow => StatusCodes.Status408RequestTimeout,
            ProblemKind.Full => StatusCodes.Status507InsufficientStorage,
            ProblemKind.Broken => StatusCodes.Status500InternalServerError,
            ProblemKind.Silent => StatusCodes.Status503ServiceUnavailable,
            _ => StatusCodes.Status422UnprocessableEntity,
        },
    };
}
