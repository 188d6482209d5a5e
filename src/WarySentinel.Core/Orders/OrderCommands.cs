using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Passwords;
using WarySentinel.Core.People;

namespace WarySentinel.Core.Orders;

/// <summary>What is known where an order is taken up.</summary>
/// <param name="Order">The order, as it stood; null where nobody told of it before.</param>
/// <param name="Events">Everything that was told of it, taken up or not.</param>
/// <param name="Member">Whoever has its address, or the account it was given to; null where nobody has.</param>
/// <param name="Others">Their other orders.</param>
public sealed record OrderFile(Order? Order, IReadOnlyList<KeptEvent> Events, Member? Member, IReadOnlyList<ToldOrder> Others)
{
    /// <summary>The account that had it until its address was mended; null where it was not.</summary>
    public Member? Former { get; init; }

    /// <summary>The passes that it gave.</summary>
    public IReadOnlyList<Pass> Passes { get; init; } = [];

    /// <summary>The organisation whose seats it pays for.</summary>
    public SeatsThere Seats { get; init; } = SeatsThere.None;

    /// <summary>Whether a gate has a shared password that letters may tell.</summary>
    public Func<string, bool> HasPassword { get; init; } = _ => false;

    /// <summary>Whether there is a folder of an item that its address alone opens, for what is delivered by link.</summary>
    public Func<ItemId, bool> HasFolder { get; init; } = _ => true;
}

/// <summary>What an account begins with that an order makes.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="PasswordHash">The hash of the password that its owner is told; null where they set one by a link.</param>
public sealed record FreshAccount(Guid Id, Secret? PasswordHash)
{
    /// <summary>The id of an organisation that it makes.</summary>
    public Guid Organisation { get; init; } = Guid.CreateVersion7();

    /// <summary>What is drawn for passes that it gives.</summary>
    public IReadOnlyList<FreshPass> Passes { get; init; } = [];
}

/// <summary>A letter to be written as an order is taken up.</summary>
/// <param name="Kind">The key of its kind.</param>
/// <param name="Promises">What it tells of.</param>
public sealed record OrderLetter(string Kind, IReadOnlyList<OrderPromise> Promises)
{
    /// <summary>The address that it goes to; null for that of the order.</summary>
    public string? To { get; init; }
}

/// <summary>What came of taking an order up.</summary>
/// <param name="Order">The order.</param>
/// <param name="Story">Its story.</param>
/// <param name="Member">The account that it is for; null where there is none yet.</param>
/// <param name="IsNew">Whether the account was made by it.</param>
/// <param name="Letters">What is to be written.</param>
public sealed record TakenUp(Order Order, OrderStory Story, Member? Member, bool IsNew, IReadOnlyList<OrderLetter> Letters)
{
    /// <summary>The passes whose passwords are to be told.</summary>
    public IReadOnlyList<GivenPass> Passes { get; init; } = [];
}

/// <summary>
/// Takes orders up: what was told of one, its account, what it gives and the letters about it, in one edit. Doing it again changes nothing, and the order in
/// which its events came makes no difference to what is held in the end.
/// </summary>
public static class OrderCommands
{
    /// <summary>The account of the order is there, or was made, and its owner is told what they were given.</summary>
    public const string LetterOfGiven = "order";

    /// <summary>The same, to whoever was given a present.</summary>
    public const string LetterOfGift = "order-gift";

    /// <summary>Something of it waits for a person.</summary>
    public const string LetterOfWaiting = "order-waiting";

    /// <summary>It is over, as the money went back or it was ended.</summary>
    public const string LetterOfEnd = "order-ended";

    /// <summary>A renewal could not be paid.</summary>
    public const string LetterOfFailedRenewal = "order-renewal-failed";

    /// <summary>It rests.</summary>
    public const string LetterOfPause = "order-paused";

    /// <summary>It goes on after it rested.</summary>
    public const string LetterOfResuming = "order-resumed";

    /// <summary>Its letters go to another address from now on.</summary>
    public const string LetterOfMending = "order-mended";

    /// <summary>The address of whoever is given what an order buys, as it is kept; null where it cannot be one. A full stop at its end is none of it.</summary>
    public static string? AddressOf(OrderStory story) => AddressOf(story.Recipient);

    /// <summary>An address of an order, as it is kept.</summary>
    public static string? AddressOf(string? typed) => EmailAddress.Normalise(typed?.Trim().TrimEnd('.'));

    /// <summary>Whether taking it up would make an account whose owner is told a password.</summary>
    public static bool NeedsPassword(Policy policy, OrderFile file)
    {
        var story = OrderStory.Of(file.Events.Select(e => e.Event!));
        return file.Member is null && story.Payments.Count > 0 && OrderPromises.Of(policy, file, story).Promises.Any(
            p => p.Way == FulfilmentWay.Password && OrderPasses.NeedsAccount(p));
    }

    /// <summary>How many passes have to be drawn for taking it up.</summary>
    public static int PassesOf(Policy policy, OrderFile file) =>
        OrderPasses.KindsOf(OrderPromises.Of(policy, file, OrderStory.Of(file.Events.Select(e => e.Event!))).Promises).Count;

    /// <summary>Takes an order up.</summary>
    public static Edit<TakenUp> TakeUp(Policy policy, OrderFile file, FreshAccount fresh, DateTimeOffset now)
    {
        var waiting = file.Events.Where(e => e.State == OrderEventState.Waiting).ToList();
        var story = OrderStory.Of(file.Events.Select(e => e.Event!));
        var before = file.Order;
        var (promises, missing) = OrderPromises.Of(policy, file, story);
        var address = AddressOf(story);
        var dates = new SiteDates(policy.Settings.TimeZone);
        var opens = story.Gift?.On is { } day && dates.StartOf(day) is var start && start > now ? start : (DateTimeOffset?)null;
        var keptOut = file.Member is { Status: MemberStatus.Suspended or MemberStatus.Closed };
        var wait = story.Payments.Count == 0 ? null : address is null ? "address" : keptOut ? "kept-out" : missing;
        var gives = story.Payments.Count > 0 && address is not null && !keptOut && opens is null && promises.Count > 0;
        var after = Standing(file, story, before) with
        {
            Promises = promises,
            WaitsFor = wait,
            Email = address ?? story.Recipient ?? "",
            DueAt = story.Payments.Count > 0 ? opens : null,
            Handling = story.Payments.Count == 0 ? OrderHandling.Open : wait is not null ? OrderHandling.Waiting
                : opens is not null ? OrderHandling.Due : OrderHandling.Done,
        };
        var isMoved = before is not null && story.MendedTo is not null && before.Email != after.Email;
        if (isMoved)
        {
            // Whoever reads the other address knows nothing yet.
            after = after with { Promises = [.. after.Promises.Select(p => p with { IsTold = false })] };
        }

        var wantsAccount = gives && promises.Any(OrderPasses.NeedsAccount);
        // What it gave before and gives no more goes, also where it gives nothing now.
        var takes = !keptOut && before is not null && file.Member?.Grants.Any(before.Gave) == true;
        var giving = wantsAccount || takes ? Give(policy, file, new ToldOrder(after, story), fresh, now) : new Giving(file.Member, false, []);
        after = after with
        {
            Member = wantsAccount ? giving.Member!.Id : before?.Member,
            Organisation = giving.Organisation?.Id ?? before?.Organisation,
        };
        var (passes, passChanges) = OrderPasses.Settle(
            policy, new ToldOrder(after, story), before is null ? null : new ToldOrder(before, OrderStory.Of(
                file.Events.Where(e => e.State == OrderEventState.Taken).Select(e => e.Event!))), file.Passes, fresh.Passes, gives, now);
        // Who bought something long ago, as a file of orders tells, is written nothing about it.
        var isFiled = waiting.Count > 0 && waiting.All(e => e is { Source: "import", Raw: not null });
        var letters = Letters(after, story, giving.Member, gives);
        if (isMoved && before!.Promises.Any(p => p.IsTold))
        {
            letters.Add(new OrderLetter(LetterOfMending, []) { To = before.Email });
        }

        after = after with
        {
            Promises = [.. after.Promises.Select(p => letters.Exists(l => l.Kind is LetterOfGiven or LetterOfGift && l.Promises.Contains(p))
                || (passes.Count > 0 && !OrderPasses.NeedsAccount(p) && !OrderPasses.IsByLetter(p)) ? p with { IsTold = true } : p)],
            Told = [.. after.Told, .. letters.Select(l => MarkOf(l.Kind, story)).OfType<string>()],
        };
        letters = isFiled ? [] : letters;
        List<Change> changes = [.. waiting.Select(e => new OrderEventTaken(e))];
        if (before is null || !Same(before, after))
        {
            after = after with { Version = (before?.Version ?? 0) + 1 };
            changes.Add(new OrderPut(after, before?.Version ?? 0));
        }

        changes.AddRange(giving.Changes);
        changes.AddRange(passChanges);
        changes.AddRange(Leave(file, after));
        var edit = new Edit(
            "order.take", after.Subject, changes, before is null ? null : Describe(before), Describe(after))
        {
            Notes = [.. giving.Changes.Count == 0 ? [] : (IEnumerable<Edit>)[new Edit("member.order", giving.Member!.Email, [], null,
                $"{after.Subject}: {Facts(after)}")], .. giving.Notes],
        };
        return new Edit<TakenUp>(edit, new TakenUp(after, story, giving.Member, giving.IsNew, letters)
        { Passes = isFiled ? [] : passes });
    }

    /// <summary>What somebody's orders have paid for, without what goes on after it for a while.</summary>
    public static IReadOnlyList<Grant> PaidFor(Policy policy, Member member, IReadOnlyList<ToldOrder> orders) => Reckoning.Of(
        new SiteDates(policy.Settings.TimeZone), orders, member.Grants.Where(g => !orders.Any(o => o.Order.Gave(g))), _ => null);

    /// <summary>What of a member's grants are not as their orders have it: the changes that make them so, and the member after them.</summary>
    public static (Member After, IReadOnlyList<Change> Changes) Settle(Policy policy, Member member, IReadOnlyList<ToldOrder> orders)
    {
        bool IsOurs(Grant g) => orders.Any(o => o.Order.Gave(g));
        var wanted = Reckoning.Of(
            new SiteDates(policy.Settings.TimeZone), orders, member.Grants.Where(g => !IsOurs(g)),
            f => OrderPromises.GraceOf(policy, orders, f)).Where(g => g.Kind != FactKind.Pass).ToList();
        var (changes, after) = (new List<Change>(), member);
        foreach (var one in wanted)
        {
            var there = member.Grants.FirstOrDefault(g => g.Kind == one.Kind && g.Key == one.Key && g.Source == one.Source);
            if (there is null || there.From != one.From || there.Until != one.Until)
            {
                after = GrantCommands.Giving(after, one with { Id = there?.Id ?? Guid.CreateVersion7() }, changes);
            }
        }

        foreach (var over in member.Grants.Where(g => IsOurs(g) && !wanted.Any(w => w.Kind == g.Kind && w.Key == g.Key && w.Source == g.Source)))
        {
            changes.Add(new GrantDropped(member.Id, over.Id));
            after = after with { Grants = [.. after.Grants.Where(g => g.Id != over.Id)] };
        }

        return (after, changes);
    }

    private static Giving Give(Policy policy, OrderFile file, ToldOrder told, FreshAccount fresh, DateTimeOffset now)
    {
        var orders = file.Others.Append(told).ToList();
        if (file.Member is { } member)
        {
            var (after, changes) = Settle(policy, member, orders);
            var seats = OrderSeats.Settle(policy, told, file.Seats, after, fresh.Organisation, now);
            List<Change> mine = [.. changes, .. seats.Mine];
            return new Giving(mine.Count == 0 ? member : seats.Buyer with { Version = member.Version + 1 }, false,
                [.. mine.Count == 0 ? [] : (IEnumerable<Change>)[new MemberTouched(member.Id, member.Version)], .. mine, .. seats.Others])
            { Organisation = seats.Organisation, Notes = seats.Notes };
        }

        var story = told.Story;
        var name = PlainText.OrNull(story.Gift is null ? story.Buyer?.Name : story.Gift.Name) ?? told.Order.Email.Split('@')[0];
        var made = new Member(
            fresh.Id, told.Order.Email, name, null, fresh.PasswordHash, fresh.PasswordHash is null ? MemberStatus.Invited : MemberStatus.Active, [], now)
        { Language = story.Gift is null ? story.Buyer?.Language : null };
        var first = OrderSeats.Settle(policy, told, file.Seats, Settle(policy, made, orders).After, fresh.Organisation, now);
        return new Giving(first.Buyer, true, [new MemberAdded(first.Buyer), .. first.Others]) { Organisation = first.Organisation, Notes = first.Notes };
    }

    /// <summary>The account that had it until its address was mended has it no longer, nor a link in a letter about it.</summary>
    private static IEnumerable<Change> Leave(OrderFile file, Order order)
    {
        if (file.Former is not { } former)
        {
            return [];
        }

        var lost = former.Grants.Where(g => order.Gave(g) || (file.Seats.Organisation is { } seats && g.Source == seats.Source)).ToList();
        return lost.Count == 0 ? []
            : [new MemberTouched(former.Id, former.Version), .. lost.Select(g => new GrantDropped(former.Id, g.Id)),
                .. file.Seats.Organisation is { } left ? (IEnumerable<Change>)[new PersonDropped(left.Id, former.Id)] : [],
                .. former.Status == MemberStatus.Invited ? (IEnumerable<Change>)[new LinksClosed(null, former.Id, null, LinkEnd.Withdrawn)] : []];
    }

    private static List<OrderLetter> Letters(Order order, OrderStory story, Member? member, bool gives)
    {
        var letters = new List<OrderLetter>();
        var isOver = story.Payments.Count > 0 && story.Payments.All(p => p.Over is not null);
        var isTheirs = member is not null && order.Member == member.Id;
        var present = new ToldOrder(order, story).Present;
        var fresh = present.Where(p => !p.IsTold && (OrderPasses.NeedsAccount(p) ? isTheirs : gives && OrderPasses.IsByLetter(p))).ToList();
        if (fresh.Count > 0 && !isOver)
        {
            letters.Add(new OrderLetter(story.Gift is null ? LetterOfGiven : LetterOfGift, fresh));
        }

        void Once(string kind, IReadOnlyList<OrderPromise> about)
        {
            if (!order.Told.Contains(MarkOf(kind, story)!))
            {
                letters.Add(new OrderLetter(kind, about));
            }
        }

        if (order.WaitsFor is "code" or "limit" or "password" && !isOver)
        {
            Once(LetterOfWaiting, []);
        }

        if (isOver && order.Promises.Any(p => p.IsTold))
        {
            Once(LetterOfEnd, order.Promises);
        }

        if (story.Standing == OrderStanding.PastDue && order.Promises.Any(p => p.IsTold))
        {
            Once(LetterOfFailedRenewal, present);
        }

        var tells = order.Promises.Any(p => p.IsTold) && !isOver;
        if (tells && story.PausedAt is not null)
        {
            Once(LetterOfPause, present);
        }

        if (tells && story.PausedAt is null && order.Told.Contains(MarkOf(LetterOfPause, story)!))
        {
            Once(LetterOfResuming, present);
        }

        return letters;
    }

    /// <summary>What is written down of a letter that is written once for each occasion; null for one that promises remember.</summary>
    private static string? MarkOf(string kind, OrderStory story) => kind switch
    {
        LetterOfWaiting => kind,
        LetterOfEnd or LetterOfFailedRenewal => $"{kind}:{story.Payments.Count}",
        LetterOfPause or LetterOfResuming => $"{kind}:{story.Pauses.Count}",
        _ => null,
    };

    private static Order Standing(OrderFile file, OrderStory story, Order? before)
    {
        var first = file.Events.OrderBy(e => e.ReceivedAt).ThenBy(e => e.Id).First();
        return (before ?? new Order { Id = Guid.CreateVersion7(), Source = first.Source, Key = first.Event!.Order }) with
        {
            Standing = story.Standing,
            Name = story.Buyer?.Name,
            Total = story.Total,
            RefundedUnits = story.RefundedUnits,
            At = story.Payments.Count > 0 ? story.Payments[0].At : file.Events.Min(e => e.Event!.At),
            TokenDigest = story.TokenDigest,
            Codes = string.Join(' ', story.Present.Select(l => l.Line.Name).Distinct().Take(20)),
        };
    }

    private static bool Same(Order one, Order other) => one with { Promises = [], Told = [] } == other with { Promises = [], Told = [] }
        && one.Told.SequenceEqual(other.Told) && one.Promises.Count == other.Promises.Count
        && one.Promises.Zip(other.Promises).All(p => p.First.IsTold == p.Second.IsTold && p.First.Line == p.Second.Line && p.First.Of == p.Second.Of);

    private static string Describe(Order order) =>
        $"{OrderWords.NameOf(order.Standing)}, {OrderWords.NameOf(order.Handling)}{(order.WaitsFor is { } wait ? $" ({wait})" : "")}: {order.Codes}";

    private static string Facts(Order order) => string.Join(", ", order.Promises.SelectMany(p => p.Facts).Select(f => f.Fact.ToString()).Distinct());

    private sealed record Giving(Member? Member, bool IsNew, IReadOnlyList<Change> Changes)
    {
        public Organisation? Organisation { get; init; }

        public IReadOnlyList<Edit> Notes { get; init; } = [];
    }
}
