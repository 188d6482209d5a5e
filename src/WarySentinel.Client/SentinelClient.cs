using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;
using WarySentinel.Contract;

namespace WarySentinel.Client;

/// <summary>The service refused; what it said.</summary>
public sealed class SentinelException(HttpStatusCode status, string code, string detail, IReadOnlyList<Fault> faults) : Exception(detail)
{
    /// <summary>The HTTP status.</summary>
    public HttpStatusCode Status { get; } = status;

    /// <summary>The stable code of the problem.</summary>
    public string Code { get; } = code;

    /// <summary>The located faults.</summary>
    public IReadOnlyList<Fault> Faults { get; } = faults;
}

/// <summary>
/// A typed client of the API. Throws <see cref="SentinelException"/> when the service refuses, <see cref="HttpRequestException"/> when it
/// cannot be reached.
/// </summary>
public sealed partial class SentinelClient : IDisposable
{
    /// <summary>How long a service may take to take a connection; what it is asked then may take as long as it needs.</summary>
    public static readonly TimeSpan ConnectPatience = TimeSpan.FromSeconds(30);

    private readonly HttpClient http;

    /// <summary>A client of the service whose console has that address, with an access token.</summary>
    /// <param name="admin">Address of the console and API.</param>
    /// <param name="token">The access token.</param>
    /// <param name="language">The language to be answered in, such as <c>de</c> or <c>de-CH</c> (RFC 5646); English unless said.</param>
    public SentinelClient(Uri admin, string? token, string? language = null)
    {
        http = new HttpClient(new SocketsHttpHandler { UseProxy = false, AllowAutoRedirect = false, ConnectTimeout = ConnectPatience })
        {
            BaseAddress = new Uri(admin, "/api/v1/"),
            Timeout = Timeout.InfiniteTimeSpan,
        };
        if (language is not null)
        {
            http.DefaultRequestHeaders.TryAddWithoutValidation("Accept-Language", language);
        }

        if (!string.IsNullOrEmpty(token))
        {
            http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
        }
    }

    /// <inheritdoc/>
    public void Dispose() => http.Dispose();

    /// <summary>Reads all pages of a list, up to a number of entries.</summary>
    public async IAsyncEnumerable<T> AllAsync<T>(
        string path, int most, [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancellationToken)
    {
        string? cursor = null;
        var given = 0;
        do
        {
            var mark = path.Contains('?', StringComparison.Ordinal) ? '&' : '?';
            var after = cursor is null ? "" : "&cursor=" + Uri.EscapeDataString(cursor);
            var page = await GetAsync<PageOf<T>>($"{path}{mark}limit={Math.Min(1000, most - given)}{after}", cancellationToken);
            foreach (var item in page.Value.Items)
            {
                yield return item;
                if (++given >= most)
                {
                    yield break;
                }
            }

            cursor = page.Value.Next;
        }
        while (cursor is not null);
    }

    private Task<(T Value, string? Tag)> GetAsync<T>(string path, CancellationToken cancellationToken) =>
        SendAsync<T>(HttpMethod.Get, path, null, null, cancellationToken);

    private async Task<(T Value, string? Tag)> SendAsync<T>(HttpMethod method, string path, object? body, string? tag, CancellationToken cancellationToken)
    {
        using var request = new HttpRequestMessage(method, path);
        if (body is not null)
        {
            request.Content = body as HttpContent ?? JsonContent.Create(body, body.GetType(), options: ApiJson.Options);
        }

        if (tag is not null)
        {
            request.Headers.TryAddWithoutValidation("If-Match", tag);
        }

        using var response = await http.SendAsync(request, cancellationToken);
        await ThrowIfRefusedAsync(response, cancellationToken);
        var value = response.StatusCode == HttpStatusCode.NoContent ? default : await response.Content.ReadFromJsonAsync<T>(ApiJson.Options, cancellationToken);
        return (value!, response.Headers.ETag?.ToString());
    }

    /// <summary>Posts something that is answered line by line.</summary>
    private async IAsyncEnumerable<T> LinesAsync<T>(
        string path, HttpContent content, [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancellationToken)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = content };
        // What is too large is refused by its length before it is sent.
        request.Headers.ExpectContinue = content.Headers.ContentType?.MediaType != "application/json";
        using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, cancellationToken);
        await ThrowIfRefusedAsync(response, cancellationToken);
        using var lines = new StreamReader(await response.Content.ReadAsStreamAsync(cancellationToken));
        while (await lines.ReadLineAsync(cancellationToken) is { } line)
        {
            yield return JsonSerializer.Deserialize<T>(line, ApiJson.Options)!;
        }
    }

    private static StreamContent Content(Stream file, string type)
    {
        var content = new StreamContent(file);
        content.Headers.ContentType = new MediaTypeHeaderValue(type);
        return content;
    }

    private static async Task ThrowIfRefusedAsync(HttpResponseMessage response, CancellationToken cancellationToken)
    {
        if (response.IsSuccessStatusCode)
        {
            return;
        }

        ProblemBody? problem = null;
        try
        {
            problem = await response.Content.ReadFromJsonAsync<ProblemBody>(ApiJson.Options, cancellationToken);
        }
        catch (Exception fault) when (fault is JsonException or NotSupportedException)
        {
            // Something else than our service answers there; the status says all there is.
        }

        throw new SentinelException(
            response.StatusCode, problem?.Code ?? "http", problem?.Detail ?? $"The service answered with status {(int)response.StatusCode}.",
            problem?.Errors ?? []);
    }
}
