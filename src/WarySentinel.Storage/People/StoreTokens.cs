using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.People;

namespace WarySentinel.Storage;

/// <summary>Access tokens of the API.</summary>
public sealed partial class Store
{
    /// <summary>The token of that id, or null.</summary>
    public async Task<ApiToken?> TokenByIdAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Tokens.AsNoTracking().FirstOrDefaultAsync(t => t.Id == id, stop))?.ToToken();
    }

    /// <summary>The token with that digest, or null.</summary>
    public async Task<ApiToken?> TokenAsync(string digest, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Tokens.AsNoTracking().FirstOrDefaultAsync(t => t.Digest == digest, stop))?.ToToken();
    }

    /// <summary>All tokens, newest first.</summary>
    public async Task<IReadOnlyList<ApiToken>> TokensAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return [.. (await db.Tokens.AsNoTracking().OrderByDescending(t => t.CreatedAt).ToListAsync(stop)).Select(t => t.ToToken())];
    }
}
