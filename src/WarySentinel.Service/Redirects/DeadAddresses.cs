using System.Net;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Redirects;

/// <summary>Asks the site whether it has a page, before somebody is sent there.</summary>
public sealed class DeadAddresses(IHttpClientFactory clients, Outbound outbound, PolicyHolder policies, ServiceOptions options)
{
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(5);

    /// <summary>
    /// Why nobody should land there: the site says that it has no such page. Null where it has, where it does not answer in time, or where the address
    /// is ours or is only known when it is followed.
    /// </summary>
    public async Task<Problem?> FaultOfAsync(string? address, CancellationToken stop)
    {
        var path = address?.Split('#', 2)[0] ?? "";
        if (!Core.Catalogue.ReturnTo.IsOnThisSite(path) || path.Contains('{', StringComparison.Ordinal)
            || options.Reserved.Any(p => path == p || path.StartsWith(p + "/", StringComparison.Ordinal) || path.StartsWith(p + "?", StringComparison.Ordinal))
            || PageBook.Of(policies.Current).PathAt(path.Split('?')[0], policies.Current.Settings.Paths) is not null)
        {
            return null;
        }

        return await StatusAsync(path, stop) is (HttpStatusCode.NotFound or HttpStatusCode.Gone) and var status
            ? Problem.In("to", "redirect-dead", path, (int)status) : null;
    }

    /// <summary>Whether the site itself has something at an address; false where it does not answer in time.</summary>
    public async Task<bool> AnswersAsync(string path, CancellationToken stop) =>
        await StatusAsync(path, stop) is { } status && status is not (HttpStatusCode.NotFound or HttpStatusCode.Gone) && (int)status < 500;

    private async Task<HttpStatusCode?> StatusAsync(string path, CancellationToken stop)
    {
        var at = new Uri(new Uri(options.Origin.Length > 0 ? options.Origin : options.SiteUrl), path);
        if (outbound.Refuses(at) is not null)
        {
            return null;
        }

        using var time = CancellationTokenSource.CreateLinkedTokenSource(stop);
        time.CancelAfter(Longest);
        try
        {
            using var http = clients.CreateClient(OwnRequests.Walk);
            using var request = new HttpRequestMessage(HttpMethod.Get, at);
            using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, time.Token);
            return response.StatusCode;
        }
        catch (Exception fault) when (fault is HttpRequestException or OperationCanceledException && !stop.IsCancellationRequested)
        {
            return null;
        }
    }
}
