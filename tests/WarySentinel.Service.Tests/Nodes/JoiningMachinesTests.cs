using System.Net;
using System.Security.Cryptography;
using System.Text;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Nodes;

/// <summary>People join at two machines at once, and while a machine dies.</summary>
public sealed class JoiningMachinesTests(TwoMachines machines) : IClassFixture<TwoMachines>
{
    private const string Password = "a-ladder-in-the-orchard";

    // The clock of these machines is the real one: nobody fills in a form in less.
    private const int Joining = 16;
    private static readonly TimeSpan AsLongAsSomebodyTakes = TimeSpan.FromSeconds(4.2);

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private RunningSite First => machines.First;

    [Fact]
    public async Task One_address_at_two_machines_at_once_is_one_account_and_of_many_decisions_one_counts()
    {
        using var owner = new Caller(First, First.Token);
        (await owner.AskAsync("PUT", "fields/company", new { label = "Company" })).Status.ShouldBe(HttpStatusCode.OK);
        (await owner.AskAsync("PUT", "forms/trade", new
        {
            title = "Trade", way = "approval", confirm = false, sections = new[] { new { fields = new[] { new { field = "company", required = true } } } },
            grants = new[] { new { grant = "role:dealer" } },
        })).Status.ShouldBe(HttpStatusCode.OK);
        await UntilAsync(machines.Second);
        string[] sites = [First.Site, machines.Second, First.Site, machines.Second, First.Site, machines.Second];
        var forms = await Task.WhenAll(sites.Select(s => FormPage.OpenAsync(s, "trade")));
        await Task.Delay(AsLongAsSomebodyTakes, Stop);
        // All with one address, and each with one of its own.
        var answers = await Task.WhenAll(forms.Select((f, n) => f.SendAsync("one@x.example", "Company " + n)));
        answers.ShouldAllBe(a => a == HttpStatusCode.OK);
        var store = First.Services.GetRequiredService<Store>();
        var member = (await store.MemberByNameAsync("one@x.example", Stop)).ShouldNotBeNull();
        (member.Status, (await store.AnswersAsync(member.Id, Stop)).Count).ShouldBe((MemberStatus.Pending, 1));
        (await store.RequestsAsync([RequestState.Waiting], null, 100, Stop)).Count(r => r.Member.Id == member.Id).ShouldBe(1);

        var second = machines.SecondServices.GetRequiredService<Service.People.MemberLinks>();
        var first = First.Services.GetRequiredService<Service.People.MemberLinks>();
        var decided = await Task.WhenAll(Enumerable.Range(0, 8).Select(n => (n % 2 == 0 ? first : second) is var desk && n % 3 == 0
            ? desk.DeclineAsync(member.Id, null, "d" + n, Stop) : desk.ApproveAsync(member.Id, null, "a" + n, Stop)));
        decided.Count(d => d.IsGood).ShouldBe(1);
        var request = (await store.RequestAsync(member.Id, Stop)).ShouldNotBeNull();
        member = (await store.MemberByNameAsync("one@x.example", Stop)).ShouldNotBeNull();
        (request.State == RequestState.Approved).ShouldBe(member.Status == MemberStatus.Active);
        member.Grants.Count.ShouldBe(request.State == RequestState.Approved ? 1 : 0);
        forms.ToList().ForEach(f => f.Dispose());
    }

    [Theory]
    [InlineData("sqlite")]
    [InlineData("postgres")]
    public async Task A_death_while_people_join_leaves_each_of_them_whole_or_not_at_all(string provider)
    {
        await using var mortal = await MortalService.OnAsync(provider);
        var taken = new List<string>();
        await using (var service = await mortal.StartAsync("--Wary:ProofsBurst=5000"))
        {
            var token = await MortalService.OwnedAsync(service);
            using var client = new Client.SentinelClient(new Uri(service.Admin), token);
            await client.PutFieldAsync("company", new Contract.People.FieldDraft { Label = "Company" }, Stop);
            await client.PutFormAsync("shop", new Contract.People.FormDraft
            {
                Title = "Shop", Way = "open", Confirm = true, Sections = [new() { Fields = [new("company", true)] }],
            }, Stop);
            var forms = await Task.WhenAll(Enumerable.Range(0, Joining).Select(_ => FormPage.OpenAsync(service.Site, "shop")));
            await Task.Delay(AsLongAsSomebodyTakes, Stop);
            var sending = forms.Select(async (form, n) =>
            {
                var email = AddressOf(n);
                if (await form.SendAsync(email, "Company") == HttpStatusCode.OK)
                {
                    lock (taken)
                    {
                        taken.Add(email);
                    }
                }
            }).ToList();
            // In the midst of it: some are answered, others are not.
            while (!sending.TrueForAll(s => s.IsCompleted) && sending.Count(s => s.IsCompleted) < 5)
            {
                await Task.Delay(5, Stop);
            }

            await service.KillAsync();
            await Task.WhenAll(sending);
            forms.ToList().ForEach(f => f.Dispose());
        }

        taken.ShouldNotBeEmpty();
        await using (await mortal.StartAsync())
        {
            using var store = Store.Open(provider, mortal.Connection, TimeProvider.System);
            for (var n = 0; n < Joining; n++)
            {
                var email = AddressOf(n);
                var member = await store.MemberByNameAsync(email, Stop);
                (member is not null || !taken.Contains(email)).ShouldBeTrue("what was answered is there");
                if (member is not null)
                {
                    (await store.RequestAsync(member.Id, Stop)).ShouldNotBeNull(email).State.ShouldBe(RequestState.Unproved);
                    (await store.AnswersAsync(member.Id, Stop)).Count.ShouldBe(1, email);
                    (await store.MessagesAsync(10, to: email, stop: Stop)).Count.ShouldBe(1, "no account without its letter");
                }
                else
                {
                    (await store.MessagesAsync(10, to: email, stop: Stop)).ShouldBeEmpty("no letter without its account");
                }
            }
        }
    }

    /// <summary>Each has a mail domain of its own: many at once from one network and one domain are held back.</summary>
    private static string AddressOf(int number) => $"a@x{number}.example";

    /// <summary>The form holds at that machine, too.</summary>
    private static async Task UntilAsync(string site)
    {
        using var browser = new Browser(site);
        while (await browser.StatusAsync("/account/register/trade") != HttpStatusCode.OK)
        {
            await Task.Delay(50, Stop);
        }
    }

    /// <summary>A form as it was given to a browser, which does the work that it is asked for.</summary>
    private sealed class FormPage(Browser browser, string path, string page) : IDisposable
    {
        public static async Task<FormPage> OpenAsync(string site, string form)
        {
            var (browser, path) = (new Browser(site), "/account/register/" + form);
            return new FormPage(browser, path, await browser.PageAsync(path));
        }

        public void Dispose() => browser.Dispose();

        public async Task<HttpStatusCode?> SendAsync(string email, string company)
        {
            try
            {
                using var answer = await browser.PostAsync(
                    path, ("__RequestVerificationToken", Of("__RequestVerificationToken")), ("seal", Of("seal")), ("work", Work()), ("name", "Some One"),
                    ("email", email), ("password", Password), ("f.company", company));
                return answer.StatusCode;
            }
            catch (HttpRequestException)
            {
                return null;
            }
        }

        private string Work()
        {
            var bits = int.Parse(Regex.Match(page, "data-bits=\"([0-9]+)\"").Groups[1].Value, System.Globalization.CultureInfo.InvariantCulture);
            var seal = Of("seal");
            for (var n = 0; ; n++)
            {
                var digest = SHA256.HashData(Encoding.UTF8.GetBytes($"{seal}:{n}"));
                if (System.Numerics.BitOperations.LeadingZeroCount(System.Buffers.Binary.BinaryPrimitives.ReadUInt32BigEndian(digest)) >= bits)
                {
                    return n.ToString(System.Globalization.CultureInfo.InvariantCulture);
                }
            }
        }

        private string Of(string name) => Regex.Match(page, $"name=\"{name}\" value=\"([^\"]+)\"").Groups[1].Value;
    }
}
