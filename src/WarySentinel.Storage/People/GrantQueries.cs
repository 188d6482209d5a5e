using System.Linq.Expressions;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;

namespace WarySentinel.Storage.People;

/// <summary>What a grant's dates and its member's status mean, as the database reads it: <see cref="Grant.IsInForce"/> and decision rule 8.</summary>
internal static class GrantQueries
{
    /// <summary>In force at a time.</summary>
    public static Expression<Func<GrantRow, bool>> InForceAt(DateTimeOffset now) =>
        g => (g.From == null || g.From <= now) && (g.Until == null || g.Until > now);

    /// <summary>Those that nothing of the same follows: whoever has them has no more when they end.</summary>
    public static IQueryable<GrantRow> Unfollowed(this IQueryable<GrantRow> grants, StoreContext db) => grants.Where(
        g => !db.Grants.Any(n => n.MemberId == g.MemberId && n.Kind == g.Kind && n.Key == g.Key && n.Id != g.Id
            && (n.Until == null || n.Until > g.Until) && (n.From == null || n.From <= g.Until)));

    /// <summary>Active members who hold a fact at a time, by one of those grants.</summary>
    public static IQueryable<Guid> ActiveHolders(this StoreContext db, IQueryable<GrantRow> grants, FactKind kind, string key, DateTimeOffset now) =>
        grants.Where(g => g.Kind == (int)kind && g.Key == key).Where(InForceAt(now))
            .Join(db.Members.Where(m => m.Status == (int)MemberStatus.Active), g => g.MemberId, m => m.Id, (g, _) => g.MemberId).Distinct();
}
