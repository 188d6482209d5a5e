using System.Text.Json.Serialization;

namespace WarySentinel.Contract.People;

/// <summary>A fact given to a member.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="Fact">Kind and key, such as <c>role:dealer</c>.</param>
/// <param name="Kind">The kind.</param>
/// <param name="Key">The key.</param>
/// <param name="From">When it begins.</param>
/// <param name="Until">When it ends, or ended.</param>
/// <param name="Source">What gave it: <c>hand</c>, <c>order:4711</c>.</param>
/// <param name="InForce">Whether it counts now.</param>
public sealed record GrantView(
    Guid Id, string Fact, string Kind, string Key, DateTimeOffset? From, DateTimeOffset? Until, string Source, bool InForce);

/// <summary>What became of a grant.</summary>
/// <param name="Grant">The grant.</param>
/// <param name="Changed">Whether anything changed by it; saying the same again from the same source changes nothing.</param>
/// <param name="Version">The member's version by now.</param>
public sealed record GrantedView(GrantView Grant, bool Changed, int Version);

/// <summary>A fact to be given.</summary>
/// <param name="Fact">Kind and key, such as <c>role:dealer</c>.</param>
/// <param name="From">When it begins; at once unless said.</param>
/// <param name="Until">When it ends; unless said a plan as long as it lasts, anything else never, which <c>never</c> says of a plan, too.</param>
/// <param name="Source">What gives it; <c>hand</c> unless said.</param>
public sealed record GrantDraft(string? Fact, string? From, string? Until, string? Source);

/// <summary>Other dates for a grant; what is left out is open.</summary>
public sealed record GrantDatesDraft(string? From, string? Until);

/// <summary>How an account came to stand where it does.</summary>
/// <param name="At">Since when.</param>
/// <param name="By">Who did it.</param>
/// <param name="Words">What the member reads of it when they sign in.</param>
public sealed record StatusCauseView(DateTimeOffset At, string By, string? Words);

/// <summary>A member.</summary>
/// <param name="Id">Their own name, which never changes.</param>
/// <param name="Email">The e-mail address.</param>
/// <param name="Name">The name to be greeted by.</param>
/// <param name="UserName">A second name to sign in with.</param>
/// <param name="Status">Where the account stands.</param>
/// <param name="Cause">How it came to be so; null where nothing has changed since it was made.</param>
/// <param name="Roles">Keys of the roles in force.</param>
/// <param name="Grants">Everything given, what is over included.</param>
/// <param name="ByRule">Keys of the groups that they are in by a rule.</param>
/// <param name="CreatedAt">When the account was made.</param>
/// <param name="SeenAt">When they last signed in to the site.</param>
/// <param name="Version">Counts up with each change.</param>
/// <param name="Language">The language that they are written to in; null for the site's.</param>
/// <param name="Unsubscribed">Whether they get no letters but those that have to be.</param>
public sealed record MemberView(
    Guid Id, string Email, string Name, string? UserName, string Status, StatusCauseView? Cause, IReadOnlyList<string> Roles,
    IReadOnlyList<GrantView> Grants, IReadOnlyList<string> ByRule, DateTimeOffset CreatedAt, DateTimeOffset? SeenAt, int Version,
    string? Language, bool Unsubscribed);

/// <summary>Which members, and in which order. What is left out asks for nothing.</summary>
/// <param name="Search">Any part of a name or address.</param>
/// <param name="Status">Where the account stands.</param>
/// <param name="Holds">What they hold now, such as <c>role:dealer</c>; of a group by rule, whom the rule admits.</param>
/// <param name="JoinedFrom">The first day, or moment, on which the account was made.</param>
/// <param name="JoinedUntil">The last day, or the moment before which it was made.</param>
/// <param name="SeenFrom">The first day, or moment, on which they last signed in.</param>
/// <param name="SeenUntil">The last day, or the moment before which they did; who never has is not among them.</param>
/// <param name="Never">Only those who never signed in.</param>
/// <param name="Sort"><c>email</c> (usual), <c>name</c>, <c>joined</c> or <c>seen</c>; with <c>-</c> before it, the last first.</param>
/// <param name="Answer">
/// Who answered fields so, each of them: <c>town</c>, <c>town:port</c> (a part), <c>sky=moon</c> (the very answer), <c>telescopes&gt;=2</c>; <c>*:port</c>
/// looks into the answers to all fields.
/// </param>
public sealed record MemberFilter(
    string? Search = null, string? Status = null, string? Holds = null, string? JoinedFrom = null, string? JoinedUntil = null, string? SeenFrom = null,
    string? SeenUntil = null, bool? Never = null, string? Sort = null, IReadOnlyList<string>? Answer = null);

/// <summary>A member to be added.</summary>
/// <param name="Email">The e-mail address.</param>
/// <param name="Name">The name to be greeted by.</param>
/// <param name="UserName">A second name to sign in with.</param>
/// <param name="Password">The password; without one the member is <c>invited</c>.</param>
/// <param name="Roles">Keys of roles.</param>
/// <param name="Groups">Keys of groups.</param>
/// <param name="Plans">Keys of plans.</param>
/// <param name="Language">The language that they are written to in.</param>
public sealed record MemberDraft(
    string? Email, string? Name, string? UserName = null, SecretText? Password = null, IReadOnlyList<string>? Roles = null,
    IReadOnlyList<string>? Groups = null, IReadOnlyList<string>? Plans = null, string? Language = null);

/// <summary>The roles that a member is to have.</summary>
public sealed record RolesDraft([property: JsonRequired] IReadOnlyList<string> Roles);

/// <summary>Where an account is to stand.</summary>
/// <param name="Status"><c>active</c>, <c>suspended</c> or <c>closed</c>.</param>
/// <param name="Words">What the member reads of it when they sign in.</param>
public sealed record StatusDraft([property: JsonRequired] string Status, string? Words = null);

/// <summary>What staff noted of a member.</summary>
public sealed record NoteView(Guid Id, DateTimeOffset At, string By, string Text);

/// <summary>A note to be made.</summary>
public sealed record NoteDraft(string? Text);

/// <summary>How many sessions were ended.</summary>
public sealed record EndedView(int Ended);

/// <summary>All that is known of one member, for them to have.</summary>
/// <param name="Member">Who they are and what they hold.</param>
/// <param name="Sessions">Where they are signed in.</param>
/// <param name="Notes">What staff noted of them.</param>
/// <param name="Letters">Letters to them; their texts are not kept once sent.</param>
/// <param name="History">What was done to them, newest first.</param>
/// <param name="Organisations">The organisations that they belong to.</param>
/// <param name="Answers">What they answered in forms.</param>
/// <param name="Request">How they asked to join; null where no request is kept.</param>
/// <param name="Consents">What they said to the site's terms, the newest first.</param>
/// <param name="Orders">What they bought, the newest first, with everything that was told of it.</param>
/// <param name="Feeds">The feeds of shows that they have.</param>
public sealed record MemberDataView(
    MemberView Member, IReadOnlyList<SessionView> Sessions, IReadOnlyList<NoteView> Notes, IReadOnlyList<MemberLetterView> Letters,
    IReadOnlyList<MemberEventView> History, IReadOnlyList<MembershipView> Organisations, IReadOnlyList<AnswerView> Answers, RequestView? Request,
    IReadOnlyList<ConsentView> Consents, IReadOnlyList<MemberOrderView> Orders, IReadOnlyList<MemberFeedView> Feeds);

/// <summary>A member's own feed of a show.</summary>
/// <param name="Show">The key of the show.</param>
/// <param name="Since">Since when they have its present address.</param>
/// <param name="ReadAt">When it was last read, to the hour.</param>
/// <param name="ReadBy">What it was last read by, as that calls itself.</param>
public sealed record MemberFeedView(string Show, DateTimeOffset Since, DateTimeOffset? ReadAt, string? ReadBy);

/// <summary>An order of a member.</summary>
/// <param name="Order">Its name, and who told of it.</param>
/// <param name="At">When it was paid.</param>
/// <param name="Codes">Its stock codes.</param>
/// <param name="Paid">What was paid; null where nobody said.</param>
/// <param name="Standing">How it stands with the money.</param>
/// <param name="Told">What was told of it, as it is kept.</param>
public sealed record MemberOrderView(
    string Order, DateTimeOffset At, string Codes, string? Paid, string Standing, IReadOnlyList<string> Told);

/// <summary>A letter to a member.</summary>
/// <param name="At">When it was written.</param>
/// <param name="Subject">The subject.</param>
/// <param name="State"><c>waiting</c>, <c>sent</c> or <c>given-up</c>.</param>
/// <param name="SentAt">When it was sent.</param>
public sealed record MemberLetterView(DateTimeOffset At, string Subject, string State, DateTimeOffset? SentAt);

/// <summary>Something that was done to a member.</summary>
public sealed record MemberEventView(DateTimeOffset At, string By, string Action, string? Before, string? After);

/// <summary>Something to be done with many members at once.</summary>
/// <param name="Do"><c>give</c>, <c>end</c>, <c>suspend</c>, <c>reinstate</c>, <c>sign-out</c>, <c>invite</c> or <c>tell</c>.</param>
/// <param name="Members">Their ids or addresses; or a filter instead.</param>
/// <param name="Filter">All whom it finds.</param>
/// <param name="Fact">What is given or ended.</param>
/// <param name="From">When it begins.</param>
/// <param name="Until">When it ends.</param>
/// <param name="Source">What gives it.</param>
/// <param name="Words">What the suspended read when they sign in; words of one's own for the invited.</param>
/// <param name="Subject">The subject of a letter.</param>
/// <param name="Text">Its text; <c>{name}</c> stands for theirs.</param>
/// <param name="DryRun">Only say what would happen.</param>
public sealed record BulkDraft(
    string? Do, IReadOnlyList<string>? Members = null, MemberFilter? Filter = null, string? Fact = null, string? From = null, string? Until = null,
    string? Source = null, string? Words = null, string? Subject = null, string? Text = null, bool? DryRun = null);

/// <summary>How far it is.</summary>
/// <param name="Done">Members looked at.</param>
/// <param name="Total">How many there are to look at; 0 while that is not known.</param>
/// <param name="Changed">For whom something changed, or would.</param>
/// <param name="Same">For whom it was so already.</param>
/// <param name="Refused">For whom it could not be done.</param>
/// <param name="Whom">Some of those for whom something changes.</param>
/// <param name="Refusals">Some of the others, with the reason.</param>
/// <param name="Stage"><c>working</c>, <c>done</c>, or <c>failed</c> with a word on why.</param>
/// <param name="Detail">Why it failed.</param>
public sealed record MembersChangeLine(
    int Done, int Total, int Changed, int Same, int Refused, IReadOnlyList<string> Whom, IReadOnlyList<BulkRefusal> Refusals, string Stage,
    string? Detail = null);

/// <summary>A member for whom it could not be done, and why.</summary>
public sealed record BulkRefusal(string Member, string Reason);

/// <summary>How far an import of members is.</summary>
/// <param name="Stage"><c>reading</c>, <c>working</c>, <c>done</c>, or <c>failed</c> with a word on why.</param>
/// <param name="Rows">Rows read; while they are worked on, rows done.</param>
/// <param name="Fresh">Members that are added, or would be.</param>
/// <param name="Changed">Members that change, or would.</param>
/// <param name="Same">Rows that change nothing.</param>
/// <param name="Refused">Rows that cannot be taken.</param>
/// <param name="Refusals">The first of those, with line and reason.</param>
/// <param name="Samples">The first of those that do something.</param>
/// <param name="Columns">Which column is taken for what.</param>
/// <param name="Encoding">The encoding that the file is read in.</param>
/// <param name="Delimiter">The sign between its fields.</param>
/// <param name="Stored">Whether anything is stored.</param>
/// <param name="Told">How many are written a letter.</param>
/// <param name="Detail">Why it failed.</param>
/// <param name="Total">How many rows the file has; 0 while it is read.</param>
public sealed record MemberImportLine(
    string Stage, int Rows, int Fresh, int Changed, int Same, int Refused, IReadOnlyList<MemberImportRefusal> Refusals,
    IReadOnlyList<MemberImportSample> Samples, IReadOnlyList<MemberImportColumn> Columns, string Encoding, string Delimiter, bool Stored,
    int Told = 0, string? Detail = null, int Total = 0);

/// <summary>Who is told of an import, and in which words.</summary>
/// <param name="Tell"><c>fresh</c>: who comes in by it; <c>changed</c>: who was there and gets something by it; <c>all</c>: both.</param>
/// <param name="Subject">The subject of the letter.</param>
/// <param name="Text">Its text; <c>{name}</c> stands for theirs.</param>
public sealed record MemberImportLetter([property: JsonRequired] string Tell, string? Subject, string? Text);

/// <summary>A row that cannot be taken.</summary>
public sealed record MemberImportRefusal(int Line, string? Email, string Field, string Reason);

/// <summary>A row that does something: <c>fresh</c> or <c>changed</c>, and what.</summary>
public sealed record MemberImportSample(int Line, string Email, string Effect, string Says);

/// <summary>A column of a file, and the field that it is taken for; empty where it is left out.</summary>
public sealed record MemberImportColumn(string Column, string Field);
