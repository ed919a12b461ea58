package frame

import (
	"context"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"maestrale/internal/password"
)

// figures are what monitoring reads.
type figures struct {
	registry  *prometheus.Registry
	requests  *prometheus.CounterVec
	seconds   *prometheus.HistogramVec
	marks     prometheus.Counter
	syncs     prometheus.Counter
	syncAge   prometheus.Histogram
	throttled prometheus.Counter
}

func (s *Frame) newFigures() *figures {
	r := prometheus.NewRegistry()
	f := &figures{registry: r,
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "maestrale_requests_total",
			Help: msgRequestsAnsweredRoute}, []string{"method", "route", "status"}),
		seconds: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "maestrale_request_seconds",
			Help:    msgTimeAnswerRoute,
			Buckets: []float64{.005, .01, .025, .05, .1, .25, .5, 1, 2.5, 5, 10, 30}}, []string{"route"}),
		marks: prometheus.NewCounter(prometheus.CounterOpts{Name: "maestrale_marks_total",
			Help: msgRequestsMarksKept}),
		syncs: prometheus.NewCounter(prometheus.CounterOpts{Name: "maestrale_deliveries_total",
			Help: msgThingsDevicesHad}),
		syncAge: prometheus.NewHistogram(prometheus.HistogramOpts{Name: "maestrale_delivery_age_seconds",
			Help:    msgHowOldWhat,
			Buckets: []float64{1, 10, 60, 600, 3600, 6 * 3600, 24 * 3600, 7 * 24 * 3600}}),
		throttled: prometheus.NewCounter(prometheus.CounterOpts{Name: "maestrale_sign_ins_throttled_total",
			Help: msgAttemptsSignNot}),
	}
	gauge := func(name, help string, read func() float64) prometheus.Collector {
		return prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, read)
	}
	r.MustRegister(f.requests, f.seconds, f.marks, f.syncs, f.syncAge, f.throttled,
		collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}),
		gauge("maestrale_database_connections", msgConnectionsDatabase,
			func() float64 { return float64(s.Store.Load().Connections) }),
		gauge("maestrale_database_connections_in_use", msgConnectionsDatabaseWork,
			func() float64 { return float64(s.Store.Load().InUse) }),
		gauge("maestrale_database_connections_most", msgConnectionsDatabaseMost,
			func() float64 { return float64(s.Store.Load().Most) }),
		gauge("maestrale_database_waiting_pages", msgPagesWaitDatabase,
			func() float64 { return float64(s.Store.Load().WaitingPages) }),
		gauge("maestrale_database_waiting_marks", msgMarksDeliveriesWait,
			func() float64 { return float64(s.Store.Load().WaitingMarks) }),
		gauge("maestrale_database_refused_total", msgUnitsWorkWaited,
			func() float64 { return float64(s.Store.Load().Refused) }),
		gauge("maestrale_live_connections", msgAnswersGoPages,
			func() float64 { return float64(s.lively.count()) }),
		gauge("maestrale_hash_queue", msgPasswordsWaitHashed,
			func() float64 { return float64(password.Waiting()) }),
		gauge("maestrale_backup_age_seconds", msgAgeNewestBackup,
			s.backupAge),
	)
	return f
}

// backupAge asks the database for its newest backup.
func (s *Frame) backupAge() float64 {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	b, err := s.Store.NewestBackup(ctx)
	if err != nil || b == nil {
		return -1
	}
	return s.Now().Sub(b.At).Seconds()
}

// Metrics answers monitoring, on an address of its own.
func (s *Frame) Metrics() http.Handler {
	mux := http.NewServeMux()
	mux.Handle("GET /metrics", promhttp.HandlerFor(s.figures.registry, promhttp.HandlerOpts{}))
	return mux
}

// observe counts a request that was answered.
func (s *Frame) observe(a *answer, method string, took time.Duration) {
	status := a.status
	if status == 0 {
		status = http.StatusOK
	}
	s.figures.requests.WithLabelValues(method, a.route, strconv.Itoa(status)).Inc()
	if !a.live {
		s.figures.seconds.WithLabelValues(a.route).Observe(took.Seconds())
	}
	if method == http.MethodPost && a.route == "/students/:student/marks" && status < 300 {
		s.figures.marks.Inc()
	}
}

// Delivered counts what a device delivered that it had made at a moment.
func (s *Frame) Delivered(made time.Time) {
	s.figures.syncs.Inc()
	if age := s.Now().Sub(made); !made.IsZero() && age > 0 {
		s.figures.syncAge.Observe(age.Seconds())
	}
}

// named tells the log which route a request took: the address itself can hold secrets and names.
func named(live bool) gin.HandlerFunc {
	return func(c *gin.Context) {
		if a, ok := c.Request.Context().Value(answerKey{}).(*answer); ok {
			a.route, a.live = c.FullPath(), live
		}
	}
}

type answerKey struct{}
