using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;
using Shouldly;
using WarySentinel.Testing;

namespace WarySentinel.Service.Tests;

/// <summary>Calls the API as its users' programs do: plain HTTP and JSON.</summary>
internal sealed class Caller(RunningSite site, string? token = null) : IDisposable
{
    private readonly HttpClient http = new()
    {
        BaseAddress = new Uri(site.Admin + "/api/v1/"),
        DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", token ?? site.Token) },
    };

    public void Dispose() => http.Dispose();

    public async Task<(HttpStatusCode Status, JsonElement Body, string? Tag)> AskAsync(string method, string path, object? body = null, string? ifMatch = null)
    {
        using var request = new HttpRequestMessage(new HttpMethod(method), path) { Content = body is null ? null : JsonContent.Create(body) };
        if (ifMatch is not null)
        {
            request.Headers.TryAddWithoutValidation("If-Match", ifMatch);
        }

        using var response = await http.SendAsync(request);
        var text = await response.Content.ReadAsStringAsync();
        return (response.StatusCode, Body(method, path, text), response.Headers.ETag?.ToString());
    }

    private static JsonElement Body(string method, string path, string text)
    {
        try
        {
            return text.Length == 0 ? default : JsonSerializer.Deserialize<JsonElement>(text);
        }
        catch (JsonException)
        {
            throw new InvalidOperationException($"{method} {path} did not answer in JSON: {text[..Math.Min(text.Length, 2000)]}");
        }
    }

    /// <summary>Asks, and expects a refusal with this status and code.</summary>
    public async Task<JsonElement> RefusedAsync(HttpStatusCode status, string code, string method, string path, object? body = null, string? ifMatch = null)
    {
        var (found, problem, _) = await AskAsync(method, path, body, ifMatch);
        found.ShouldBe(status, problem.ToString());
        problem.GetProperty("code").GetString().ShouldBe(code);
        problem.GetProperty("detail").GetString().ShouldNotBeNullOrWhiteSpace();
        return problem;
    }
}
