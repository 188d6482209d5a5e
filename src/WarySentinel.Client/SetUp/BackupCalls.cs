namespace WarySentinel.Client;

/// <summary>Backups.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Writes everything that is kept to a stream, as a packed tar file.</summary>
    /// <param name="to">Where it goes.</param>
    /// <param name="withFiles">Whether the files of folders to download from go along.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task BackupAsync(Stream to, bool withFiles, CancellationToken cancellationToken)
    {
        using var response = await http.GetAsync(
            "backup" + (withFiles ? "?files=true" : ""), HttpCompletionOption.ResponseHeadersRead, cancellationToken);
        await ThrowIfRefusedAsync(response, cancellationToken);
        await response.Content.CopyToAsync(to, cancellationToken);
    }
}
