using System.Linq.Expressions;
using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Storage.People;

/// <summary>What a query for members means to the database: whom it lets through, in which order, and by which index they may be found.</summary>
internal static class MemberOrder
{
    /// <summary>Those whom it lets through, and who stand after the place that it names in the usual order.</summary>
    public static IQueryable<MemberRow> Such(IQueryable<MemberRow> from, MemberQuery asked, DateTimeOffset now, StoreContext db)
    {
        var such = from.AsNoTracking();
        such = asked.After is { } after && asked.Sort == MemberSort.Email ? AfterAddress(such, asked, after) : such;
        such = asked.Status is { } status ? such.Where(m => m.Status == (int)status) : such;
        such = asked.Holds is null ? such : such.Where(HoldingIt(asked, now, db));
        foreach (var answer in asked.Answers)
        {
            var answering = Answering(db, answer);
            such = such.Where(m => answering.Contains(m.Id));
        }

        such = asked.Joined.From is { } joined ? such.Where(m => m.CreatedAt >= joined) : such;
        such = asked.Joined.Until is { } joinedBefore ? such.Where(m => m.CreatedAt < joinedBefore) : such;
        such = asked.Seen.From is { } seen ? such.Where(m => (m.SeenAt ?? EF.Constant(DateTimeOffset.MinValue)) >= seen) : such;
        such = asked.Seen.Until is { } seenBefore ? such.Where(m => m.SeenAt != null && m.SeenAt < seenBefore) : such;
        return asked.NeverSeen ? such.Where(m => (m.SeenAt ?? EF.Constant(DateTimeOffset.MinValue)) == EF.Constant(DateTimeOffset.MinValue)) : such;
    }

    /// <summary>The next of them, in their order.</summary>
    public static IQueryable<MemberRow> Next(IQueryable<MemberRow> such, MemberQuery asked) => asked.Sort switch
    {
        MemberSort.Name => Sorted(asked.AfterParts is var (key, _) ? After(such, asked, key) : such, m => m.Search, asked),
        MemberSort.Joined => Sorted(asked.AfterParts is var (key, email) && long.TryParse(key, out var ticks)
            ? After(such, asked, new DateTimeOffset(ticks, TimeSpan.Zero), email) : such, m => m.CreatedAt, asked),
        MemberSort.Seen => Sorted(asked.AfterParts is var (key, email) && long.TryParse(key, out var ticks)
            ? AfterSeen(such, asked, new DateTimeOffset(ticks, TimeSpan.Zero), email) : such, m => m.SeenAt ?? EF.Constant(DateTimeOffset.MinValue), asked),
        _ => Sorted(such, m => m.Email, asked),
    };

    /// <summary>Those who stand before a place of their order: after it, the other way round. All without one.</summary>
    public static IQueryable<MemberRow> Before(IQueryable<MemberRow> such, MemberQuery asked, Place? place)
    {
        var back = asked with { Descending = !asked.Descending };
        return (place, asked.Sort) switch
        {
            (null, _) => such,
            (_, MemberSort.Name) => After(such, back, place.Search),
            (_, MemberSort.Joined) => After(such, back, place.CreatedAt, place.Email),
            (_, MemberSort.Seen) => AfterSeen(such, back, place.SeenAt ?? DateTimeOffset.MinValue, place.Email),
            _ => AfterAddress(such, back, place.Email),
        };
    }

    /// <summary>Ids of members among whom all are that it lets through, each found by an index; only what can be few.</summary>
    public static IEnumerable<IQueryable<Guid>> Candidates(StoreContext db, MemberQuery asked, DateTimeOffset now)
    {
        if (asked.Holds is var (kind, key))
        {
            var held = db.Grants.Where(g => g.Kind == (int)kind && g.Key == key).Where(GrantQueries.InForceAt(now)).Select(g => g.MemberId);
            if (asked.Rule is null)
            {
                yield return held;
            }
            else if (asked.Rule.FactsAsked().ToList() is var facts && !asked.Rule.Admits(new Visitor { IsSignedIn = true }, "", now)
                && facts.TrueForAll(f => f.Kind != FactKind.Member))
            {
                // Who holds none of what the rule asks for is not admitted: all others hold some of it.
                yield return facts.Select(f => (f.Kind, f.Key)).Distinct().Aggregate(held, (all, f) => all.Concat(
                    db.Grants.Where(g => g.Kind == (int)f.Kind && g.Key == f.Key).Where(GrantQueries.InForceAt(now)).Select(g => g.MemberId)));
            }
        }

        foreach (var answer in asked.Answers)
        {
            yield return Answering(db, answer);
        }

        if (asked.Status is { } status and not MemberStatus.Active)
        {
            yield return db.Members.Where(m => m.Status == (int)status).Select(m => m.Id);
        }

        if (!asked.Joined.IsOpen)
        {
            var (from, until) = (asked.Joined.From ?? DateTimeOffset.MinValue, asked.Joined.Until ?? DateTimeOffset.MaxValue);
            yield return db.Members.Where(m => m.CreatedAt >= from && m.CreatedAt < until).Select(m => m.Id);
        }

        if (!asked.Seen.IsOpen)
        {
            // Who never signed in has no such day.
            var (from, until) = (asked.Seen.From ?? DateTimeOffset.MinValue.AddTicks(1), asked.Seen.Until ?? DateTimeOffset.MaxValue);
            yield return db.Members.Where(m => (m.SeenAt ?? EF.Constant(DateTimeOffset.MinValue)) >= from
                && (m.SeenAt ?? EF.Constant(DateTimeOffset.MinValue)) < until).Select(m => m.Id);
        }
    }

    /// <summary>Who answered so; by the index of the field's answers.</summary>
    private static IQueryable<Guid> Answering(StoreContext db, AnswerFilter asked)
    {
        var (answers, sought) = (db.Answers.AsQueryable(), AnswerRow.FoldedOf(asked.Text));
        answers = asked.Field == AnswerFilter.AnyField ? answers : answers.Where(a => a.Field == asked.Field);
        var number = (double?)asked.Number;
        answers = asked.Match switch
        {
            AnswerMatch.Part => answers.Where(a => a.Folded.Contains(sought)),
            AnswerMatch.Is => answers.Where(a => a.Folded == sought),
            AnswerMatch.AtLeast => number is not null ? answers.Where(a => a.Number >= number) : answers.Where(a => a.Folded.CompareTo(sought) >= 0),
            AnswerMatch.AtMost => number is not null ? answers.Where(a => a.Number <= number) : answers.Where(a => a.Folded.CompareTo(sought) <= 0),
            _ => answers,
        };
        return answers.Select(a => a.MemberId);
    }

    private static IQueryable<MemberRow> Sorted<TKey>(IQueryable<MemberRow> such, Expression<Func<MemberRow, TKey>> by, MemberQuery asked) =>
        (asked.Descending ? such.OrderByDescending(by).ThenByDescending(m => m.Email) : such.OrderBy(by).ThenBy(m => m.Email)).Take(asked.Most);

    private static IQueryable<MemberRow> AfterAddress(IQueryable<MemberRow> such, MemberQuery asked, string email) =>
        asked.Descending ? such.Where(m => m.Email.CompareTo(email) < 0) : such.Where(m => m.Email.CompareTo(email) > 0);

    /// <summary>After a folded name, in which the address stands: no two have the same.</summary>
    private static IQueryable<MemberRow> After(IQueryable<MemberRow> such, MemberQuery asked, string key) =>
        asked.Descending ? such.Where(m => m.Search.CompareTo(key) < 0) : such.Where(m => m.Search.CompareTo(key) > 0);

    private static IQueryable<MemberRow> After(IQueryable<MemberRow> such, MemberQuery asked, DateTimeOffset at, string email) => asked.Descending
        ? such.Where(m => m.CreatedAt < at || (m.CreatedAt == at && m.Email.CompareTo(email) < 0))
        : such.Where(m => m.CreatedAt > at || (m.CreatedAt == at && m.Email.CompareTo(email) > 0));

    private static IQueryable<MemberRow> AfterSeen(IQueryable<MemberRow> such, MemberQuery asked, DateTimeOffset at, string email) => asked.Descending
        ? such.Where(m => (m.SeenAt ?? EF.Constant(DateTimeOffset.MinValue)) < at
            || ((m.SeenAt ?? EF.Constant(DateTimeOffset.MinValue)) == at && m.Email.CompareTo(email) < 0))
        : such.Where(m => (m.SeenAt ?? EF.Constant(DateTimeOffset.MinValue)) > at
            || ((m.SeenAt ?? EF.Constant(DateTimeOffset.MinValue)) == at && m.Email.CompareTo(email) > 0));

    private static Expression<Func<MemberRow, bool>> HoldingIt(MemberQuery asked, DateTimeOffset now, StoreContext db)
    {
        var (kind, key) = asked.Holds!.Value;
        var direct = Holding(db, kind, key, now);
        return asked.Rule is null ? direct : Or(direct, And(m => m.Status == (int)MemberStatus.Active, Of(asked.Rule, now, db)));
    }

    /// <summary>An audience over facts, as the database reads it: the same as <see cref="Audience.Admits"/> of somebody who is signed in.</summary>
    private static Expression<Func<MemberRow, bool>> Of(Audience audience, DateTimeOffset now, StoreContext db) => audience switch
    {
        Audience.Fact { Kind: FactKind.Member } named => m => m.Email == named.Key,
        Audience.Fact { Rule: { } rule } fact => Or(Holding(db, fact.Kind, fact.Key, now), Of(rule, now, db)),
        Audience.Fact fact => Holding(db, fact.Kind, fact.Key, now),
        Audience.Not not => Not(Of(not.Inner, now, db)),
        Audience.Many { All: true } all => all.Parts.Select(p => Of(p, now, db)).Aggregate(And),
        Audience.Many any => any.Parts.Select(p => Of(p, now, db)).Aggregate(Or),
        Audience.Plain { Atom: PlainAtom.SignedIn or PlainAtom.Anyone } => _ => true,
        _ => _ => false,
    };

    private static Expression<Func<MemberRow, bool>> Holding(StoreContext db, FactKind kind, string key, DateTimeOffset now)
    {
        var grants = db.Grants.Where(g => g.Kind == (int)kind && g.Key == key).Where(GrantQueries.InForceAt(now));
        return m => grants.Any(g => g.MemberId == m.Id);
    }

    private static Expression<Func<MemberRow, bool>> And(Expression<Func<MemberRow, bool>> one, Expression<Func<MemberRow, bool>> other) =>
        Joined(one, other, Expression.AndAlso);

    private static Expression<Func<MemberRow, bool>> Or(Expression<Func<MemberRow, bool>> one, Expression<Func<MemberRow, bool>> other) =>
        Joined(one, other, Expression.OrElse);

    private static Expression<Func<MemberRow, bool>> Not(Expression<Func<MemberRow, bool>> one) =>
        Expression.Lambda<Func<MemberRow, bool>>(Expression.Not(one.Body), one.Parameters);

    private static Expression<Func<MemberRow, bool>> Joined(
        Expression<Func<MemberRow, bool>> one, Expression<Func<MemberRow, bool>> other, Func<Expression, Expression, Expression> by) =>
        Expression.Lambda<Func<MemberRow, bool>>(by(one.Body, new Swap(other.Parameters[0], one.Parameters[0]).Visit(other.Body)), one.Parameters);

    private sealed class Swap(ParameterExpression old, ParameterExpression fresh) : ExpressionVisitor
    {
        protected override Expression VisitParameter(ParameterExpression node) => node == old ? fresh : node;
    }
}

/// <summary>What a member stands by in each order.</summary>
internal sealed record Place(string Email, string Search, DateTimeOffset CreatedAt, DateTimeOffset? SeenAt);
