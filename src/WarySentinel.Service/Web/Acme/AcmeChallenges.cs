using System.Collections.Concurrent;

namespace WarySentinel.Service.Web.Acme;

/// <summary>What a certificate authority asks for on plain http, to see that a name leads here (RFC 8555 §8.3).</summary>
public sealed class AcmeChallenges
{
    private const string Folder = "/.well-known/acme-challenge/";
    private readonly ConcurrentDictionary<string, string> answers = new(StringComparer.Ordinal);

    /// <summary>Puts an answer up until it is taken down.</summary>
    public void Put(string token, string answer) => answers[token] = answer;

    /// <summary>Takes an answer down.</summary>
    public void Drop(string token) => answers.TryRemove(token, out _);

    /// <summary>The answer to a request, or null where it is none of these.</summary>
    public string? For(HttpContext http) => !answers.IsEmpty && HttpMethods.IsGet(http.Request.Method)
        && http.Request.Path.Value is { } path && path.StartsWith(Folder, StringComparison.Ordinal) ? answers.GetValueOrDefault(path[Folder.Length..]) : null;
}
