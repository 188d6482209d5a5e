using Microsoft.EntityFrameworkCore;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>A file of a form that was not taken yet.</summary>
/// <param name="Digest">A digest of the secret by which it is asked for again.</param>
/// <param name="Name">What it was called.</param>
/// <param name="Content">All of it.</param>
/// <param name="Network">From where it came.</param>
/// <param name="At">When.</param>
public sealed record PendingUpload(string Digest, string Name, byte[] Content, string Network, DateTimeOffset At);

/// <summary>Files of forms that were not taken yet.</summary>
public sealed partial class Store
{
    /// <summary>Keeps a file for a while; false where as much as may be is kept already. Several at once may go a little beyond.</summary>
    /// <param name="upload">The file.</param>
    /// <param name="mostOfNetwork">At most so many from one network.</param>
    /// <param name="mostBytes">At most so much of all.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<bool> KeepUploadAsync(PendingUpload upload, int mostOfNetwork, long mostBytes, CancellationToken stop = default)
    {
        await using var db = open();
        if (await db.PendingUploads.CountAsync(u => u.Network == upload.Network, stop) >= mostOfNetwork
            || await db.PendingUploads.SumAsync(u => (long)u.Size, stop) + upload.Content.Length > mostBytes)
        {
            return false;
        }

        db.PendingUploads.Add(new PendingUploadRow
        {
            Digest = upload.Digest, Name = upload.Name, Size = upload.Content.Length, Content = upload.Content, Network = upload.Network, At = upload.At,
        });
        await db.SaveChangesAsync(stop);
        return true;
    }

    /// <summary>A file that was kept since then; null where there is none.</summary>
    public async Task<PendingUpload?> UploadAsync(string digest, DateTimeOffset since, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.PendingUploads.AsNoTracking().Where(u => u.Digest == digest && u.At >= since)
            .Select(u => new PendingUpload(u.Digest, u.Name, u.Content, u.Network, u.At)).FirstOrDefaultAsync(stop);
    }

    /// <summary>Drops files that were taken, and those from before a time.</summary>
    public async Task DropUploadsAsync(IReadOnlyCollection<string> digests, DateTimeOffset before, CancellationToken stop = default)
    {
        await using var db = open();
        await db.PendingUploads.Where(u => digests.Contains(u.Digest) || u.At < before).ExecuteDeleteAsync(stop);
    }
}
