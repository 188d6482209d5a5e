using System.Text.Json;
using System.Text.Json.Serialization;

namespace WarySentinel.Contract;

/// <summary>How bodies of the API are written.</summary>
public static class ApiJson
{
    /// <summary>camelCase, and nothing where there is nothing.</summary>
    public static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web) { DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };
}

/// <summary>A located fault of what was sent.</summary>
/// <param name="Field">The field or CSV column it is about.</param>
/// <param name="Message">What is wrong and what to do, in the reader's language.</param>
/// <param name="Line">Line of the file, from 1, where there is one.</param>
/// <param name="Column">Column, from 1: a character of an expression or a column of a file.</param>
public sealed record Fault(string Field, string Message, int? Line = null, int? Column = null);

/// <summary>A refusal (RFC 9457): a stable code for programs, a sentence for people, and where in what was sent it lies.</summary>
public sealed record ProblemBody(string? Type, string? Title, int? Status, string? Detail, string? Code, IReadOnlyList<Fault>? Errors);

/// <summary>One page of a list. <paramref name="Next"/> is the cursor of the page after it, or null on the last.</summary>
public sealed record PageOf<T>(IReadOnlyList<T> Items, string? Next);
