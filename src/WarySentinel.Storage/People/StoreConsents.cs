using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.People.Consents;

namespace WarySentinel.Storage;

/// <summary>How many said what to a version of terms.</summary>
/// <param name="Number">The version.</param>
/// <param name="Agreed">How many members agreed.</param>
/// <param name="Refused">How many refused.</param>
public sealed record ConsentFigures(int Number, int Agreed, int Refused);

/// <summary>What members said to terms.</summary>
public sealed partial class Store
{
    /// <summary>Everything that a member said, the newest first, at most so much.</summary>
    public async Task<IReadOnlyList<Consent>> ConsentsAsync(Guid member, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.Consents.AsNoTracking().Where(c => c.MemberId == member).OrderByDescending(c => c.Id).Take(most).ToListAsync(stop);
        return [.. rows.Select(r => r.ToConsent())];
    }

    /// <summary>How many said what to each version of terms.</summary>
    public async Task<IReadOnlyList<ConsentFigures>> ConsentFiguresAsync(string terms, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.Consents.Where(c => c.Terms == terms).GroupBy(c => new { c.Number, c.Agreed })
            .Select(g => new { g.Key.Number, g.Key.Agreed, Count = g.Select(c => c.MemberId).Distinct().Count() }).ToListAsync(stop);
        return [.. rows.GroupBy(r => r.Number).OrderBy(g => g.Key).Select(g => new ConsentFigures(
            g.Key, g.FirstOrDefault(r => r.Agreed)?.Count ?? 0, g.FirstOrDefault(r => !r.Agreed)?.Count ?? 0))];
    }
}
